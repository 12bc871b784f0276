import { GlidingFilter } from '../../filters/gliding-filter.js';
import { notchTurn } from '../../filters/phase-turn.js';
import { notchSection, type Section } from '../../filters/sections.js';
import { harmonicsOf, LineTracker, MOST_HARMONICS } from '../../hum/line-tracker.js';
import { copyFrames } from '../../copy-frames.js';
import type { Memory } from '../../memory.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  baseHz: {
    title: 'Base',
    unit: 'Hz',
    min: 20,
    max: 1000,
    default: 50,
    step: 0.1,
    practice: [49.5, 60.5],
    scale: 'log',
    presets: [50, 60],
    sentence: 'The lowest line: 50 or 60 Hz for mains, or the frequency of a stray tone.',
  },
  harmonics: {
    title: 'Harmonics',
    unit: 'count',
    min: 1,
    max: 16,
    default: 4,
    step: 1,
    practice: [2, 6],
    scale: 'linear',
    sentence: 'How many lines, the base included. No more than it takes: each one costs the voice some timbre.',
  },
  widthHz: {
    title: 'Width',
    unit: 'Hz',
    min: 0.5,
    max: 20,
    default: 3,
    step: 0.1,
    practice: [2, 5],
    scale: 'log',
    sentence: 'Width of each notch between its -3 dB points.',
  },
} as const;

const choices = {
  drift: {
    title: 'Drift',
    default: 'fixed',
    sentence: 'Whether the notches stand still or go with a slow drift of the mains.',
    options: [
      { value: 'fixed', title: 'stands still', sentence: 'The notches stand on the base.' },
      { value: 'follow', title: 'follows', sentence: 'The notches follow the lines, up to 0.8 % from the base.' },
    ],
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** Does nothing: keeps the number of sections when a harmonic lies above the band. */
const PASS: Section = [1, 0, 0, 0, 0];

function notches(
  design: typeof notchSection,
  baseHz: number,
  widthHz: number,
  harmonics: readonly number[],
  sampleRateHz: number,
): Section[] {
  return harmonics.map((harmonic) => {
    const lineHz = baseHz * harmonic;
    return lineHz < 0.48 * sampleRateHz ? design(lineHz, widthHz, sampleRateHz) : PASS;
  });
}

class HumNotch extends GlidingFilter implements TreatmentProcessor<typeof parameters> {
  readonly #harmonics: readonly number[];
  readonly #follows: boolean;
  readonly #sampleRateHz: number;
  #tracker: LineTracker | undefined;
  #block = new Float32Array(0);
  #fill = 0;
  #values: Values;

  constructor(context: ProcessorContext, values: Values, design = notchSection) {
    const harmonics = harmonicsOf(values.harmonics, values['harmonicsOn']);
    super(context, [values.baseHz, values.widthHz], ([baseHz, widthHz]) =>
      notches(design, baseHz!, widthHz!, harmonics, context.sampleRateHz),
    );
    this.#harmonics = harmonics;
    this.#follows = values['drift'] === 'follow';
    this.#sampleRateHz = context.sampleRateHz;
    this.#values = values;
    if (this.#follows) this.#track();
  }

  setParameters(values: Values): boolean {
    const harmonics = harmonicsOf(values.harmonics, values['harmonicsOn']);
    if (harmonics.length !== this.#harmonics.length || harmonics.some((harmonic, i) => harmonic !== this.#harmonics[i])) return false;
    if ((values['drift'] === 'follow') !== this.#follows || (this.#follows && values.baseHz !== this.#values.baseHz)) return false;
    this.#values = values;
    this.glideTo([this.#tracker?.baseHz ?? values.baseHz, values.widthHz]);
    return true;
  }

  override reset(): void {
    this.#tracker?.reset();
    this.#fill = 0;
    this.glideTo([this.#values.baseHz, this.#values.widthHz]);
    super.reset();
  }

  goOnAt(frame: number): void {
    if (this.#tracker) this.#fill = frame % this.#block.length;
    this.countFrom(frame);
  }

  /** Notches a hertz wide ring for a second. */
  remember(memory: Memory): void {
    this.#tracker?.remember(memory);
    this.rememberFilter(memory);
  }

  override process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    if (!this.#tracker) return super.process(input, output, frames);
    // Up to the end of a block at a time, so that the notches move at the same frames whatever the block length.
    for (let n = 0; n < frames;) {
      const count = Math.min(frames - n, this.#block.length - this.#fill);
      const [block, fill, share] = [this.#block, this.#fill, 1 / input.length];
      block.fill(0, fill, fill + count);
      for (let c = 0; c < input.length; c++) {
        const samples = input[c]!;
        for (let i = 0; i < count; i++) block[fill + i]! += samples[n + i]! * share;
      }
      for (let c = 0; c < output.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, n, output[c]!, n, count);
      const part = output.map((samples) => samples.subarray(n, n + count));
      super.process(part, part, count);
      this.#fill += count;
      n += count;
      if (this.#fill < this.#block.length) continue;
      this.#fill = 0;
      this.#tracker.take(this.#block, false);
      this.glideTo([this.#tracker.baseHz, this.#values.widthHz]);
    }
  }

  #track(): void {
    this.#tracker = new LineTracker(this.#sampleRateHz, this.#values.baseHz, this.#harmonics, true);
    this.#block = new Float32Array(this.#tracker.blockFrames);
  }
}

export const humNotch = defineTreatment({
  kind: 'hum-notch',
  title: 'Hum notch',
  sentence: 'Narrow notches on a hum and its harmonics, or on one stray tone.',
  parameters,
  choices,
  lists: {
    harmonicsOn: {
      title: 'Harmonics on',
      most: MOST_HARMONICS,
      numbers: { min: 1, max: MOST_HARMONICS },
      sentence: 'Which harmonics have a notch; none listed means the first ones, up to the count.',
    },
  },
  remembers: true,
  needsNoiseProfile: false,
  // A count that is moved means the first ones again, not the list that was.
  reconcile: (values, moved) => (moved === 'harmonics' ? { ...values, harmonicsOn: [] } : values),
  summary: (values) => {
    const { length } = harmonicsOf(values.harmonics, values['harmonicsOn']);
    return `${values.baseHz} Hz · ${length} ${length === 1 ? 'line' : 'lines'}`;
  },
  create: (context, values) => new HumNotch(context, values),
  turn: (context, values) => new HumNotch(context, values, notchTurn),
});
