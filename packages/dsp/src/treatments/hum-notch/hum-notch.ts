import { GlidingFilter } from '../../filters/gliding-filter.js';
import { notchSection, type Section } from '../../filters/sections.js';
import type { ProcessorContext } from '../../processor.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  baseHz: {
    title: 'Base', unit: 'Hz', min: 20, max: 1000, default: 50, step: 0.1, practice: [49.5, 60.5], scale: 'log', presets: [50, 60],
    sentence: 'The lowest line: 50 or 60 Hz for mains, or the frequency of a stray tone.',
  },
  harmonics: {
    title: 'Harmonics', unit: 'count', min: 1, max: 16, default: 4, step: 1, practice: [2, 6], scale: 'linear',
    sentence: 'How many lines, the base included. No more than it takes: each one costs the voice some timbre.',
  },
  widthHz: {
    title: 'Width', unit: 'Hz', min: 0.5, max: 20, default: 3, step: 0.1, practice: [2, 5], scale: 'log',
    sentence: 'Width of each notch between its -3 dB points.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** Does nothing: keeps the number of sections when a harmonic lies above the band. */
const PASS: Section = [1, 0, 0, 0, 0];

function notches(baseHz: number, widthHz: number, harmonics: number, sampleRateHz: number): Section[] {
  return Array.from({ length: harmonics }, (_, i) => {
    const lineHz = baseHz * (i + 1);
    return lineHz < 0.48 * sampleRateHz ? notchSection(lineHz, widthHz, sampleRateHz) : PASS;
  });
}

class HumNotch extends GlidingFilter implements TreatmentProcessor<typeof parameters> {
  readonly #harmonics: number;

  constructor(context: ProcessorContext, values: Values) {
    super(context, [values.baseHz, values.widthHz], ([baseHz, widthHz]) =>
      notches(baseHz!, widthHz!, values.harmonics, context.sampleRateHz),
    );
    this.#harmonics = values.harmonics;
  }

  setParameters(values: Values): boolean {
    if (values.harmonics !== this.#harmonics) return false;
    this.glideTo([values.baseHz, values.widthHz]);
    return true;
  }
}

export const humNotch = defineTreatment({
  kind: 'hum-notch',
  title: 'Hum notch',
  sentence: 'Narrow notches on a hum and its harmonics, or on one stray tone.',
  parameters,
  needsNoiseProfile: false,
  summary: (values) => `${values.baseHz} Hz · ${values.harmonics} ${values.harmonics === 1 ? 'line' : 'lines'}`,
  create: (context, values) => new HumNotch(context, values),
});
