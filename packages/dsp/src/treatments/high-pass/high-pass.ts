import { GlidingFilter } from '../../filters/gliding-filter.js';
import { butterworthTurn } from '../../filters/phase-turn.js';
import { butterworthHighPass } from '../../filters/sections.js';
import type { ProcessorContext } from '../../processor.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  cutoffHz: {
    title: 'Cutoff',
    unit: 'Hz',
    min: 20,
    max: 500,
    default: 80,
    step: 1,
    practice: [80, 100],
    scale: 'log',
    sentence: 'Everything below is lowered; at the cutoff itself by 3 dB. There is next to no speech under 100 Hz.',
  },
  slopeDbPerOctave: {
    title: 'Slope',
    unit: 'dB/oct',
    min: 6,
    max: 48,
    default: 24,
    step: 6,
    practice: [18, 24],
    scale: 'linear',
    sentence: 'How fast it falls below the cutoff. A steeper slope lets the cutoff sit lower.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** Butterworth: 6 dB per octave and order, so 1 to 8 poles. */
class HighPass extends GlidingFilter implements TreatmentProcessor<typeof parameters> {
  readonly #order: number;

  constructor(context: ProcessorContext, values: Values, design = butterworthHighPass) {
    const order = Math.round(values.slopeDbPerOctave / 6);
    super(context, [values.cutoffHz], ([cutoffHz]) => design(cutoffHz!, order, context.sampleRateHz));
    this.#order = order;
  }

  setParameters(values: Values): boolean {
    if (Math.round(values.slopeDbPerOctave / 6) !== this.#order) return false;
    this.glideTo([values.cutoffHz]);
    return true;
  }
}

export const highPass = defineTreatment({
  kind: 'high-pass',
  title: 'High-pass',
  sentence: 'Takes out what lies below the voice: rumble, wind, traffic, handling.',
  parameters,
  needsNoiseProfile: false,
  summary: (values) => `${values.cutoffHz} Hz · ${values.slopeDbPerOctave} dB/oct`,
  create: (context, values) => new HighPass(context, values),
  turn: (context, values) => new HighPass(context, values, butterworthTurn),
});
