import { copyFrames } from '../../copy-frames.js';
import { harmonicsOf, LineTracker, MOST_HARMONICS } from '../../hum/line-tracker.js';
import type { Memory } from '../../memory.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { defaultValues, defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { humNotch } from '../hum-notch/hum-notch.js';

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
    max: MOST_HARMONICS,
    default: 8,
    step: 1,
    practice: [4, 12],
    scale: 'linear',
    sentence: 'How many lines, the base included. They cost the voice next to nothing.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** Subtracts the steady sinusoids that a LineTracker finds, one tracker a channel; late by one block. */
class HumLines implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames: number;
  readonly #trackers: LineTracker[];
  readonly #incoming: Float32Array[];
  readonly #outgoing: Float32Array[];
  readonly #key: string;
  #fill = 0;

  constructor({ sampleRateHz, channels }: ProcessorContext, values: Values) {
    const harmonics = harmonicsOf(values.harmonics, values['harmonicsOn']);
    this.#trackers = Array.from(
      { length: channels },
      () => new LineTracker(sampleRateHz, values.baseHz, harmonics, values['drift'] === 'follow'),
    );
    this.latencyFrames = this.#trackers[0]!.blockFrames;
    this.#incoming = this.#trackers.map(({ blockFrames }) => new Float32Array(blockFrames));
    this.#outgoing = this.#trackers.map(({ blockFrames }) => new Float32Array(blockFrames));
    this.#key = keyOf(values);
  }

  /** Every change asks for new trackers. */
  setParameters(values: Values): boolean {
    return keyOf(values) === this.#key;
  }

  reset(): void {
    this.#fill = 0;
    for (const samples of [...this.#incoming, ...this.#outgoing]) samples.fill(0);
    for (const tracker of this.#trackers) tracker.reset();
  }

  goOnAt(frame: number): void {
    this.#fill = frame % this.latencyFrames;
  }

  remember(memory: Memory): void {
    for (const tracker of this.#trackers) tracker.remember(memory);
    // What goes out of the block at hand was made from what the trackers knew.
    for (const samples of this.#outgoing) memory.floats(samples);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let n = 0; n < frames;) {
      const count = Math.min(frames - n, this.latencyFrames - this.#fill);
      for (let c = 0; c < this.#trackers.length; c++) {
        copyFrames(input[c]!, n, this.#incoming[c]!, this.#fill, count);
        copyFrames(this.#outgoing[c]!, this.#fill, output[c]!, n, count);
      }
      this.#fill += count;
      n += count;
      if (this.#fill < this.latencyFrames) continue;
      this.#fill = 0;
      for (let c = 0; c < this.#trackers.length; c++) {
        this.#outgoing[c]!.set(this.#incoming[c]!);
        this.#trackers[c]!.take(this.#outgoing[c]!, true);
      }
    }
  }
}

const keyOf = (values: Values): string =>
  JSON.stringify([values['drift'], values.baseHz, harmonicsOf(values.harmonics, values['harmonicsOn'])]);

/** What notches the same lines takes its own settings, at their defaults where lines have none. */
type NotchValues = Parameters<typeof humNotch.create>[1];

export const humLines = defineTreatment({
  kind: 'hum-lines',
  title: 'Hum lines',
  sentence: 'Estimates the steady lines of a hum and subtracts them; voice at the same frequencies stays.',
  parameters,
  choices: {
    drift: {
      title: 'Drift',
      default: 'still',
      sentence: 'Whether the lines stand still or go with a slow drift of the mains.',
      options: [
        { value: 'still', title: 'stands still', sentence: 'Surest against speech: for a hum whose base is known.' },
        { value: 'follow', title: 'follows', sentence: 'Goes with a drift of up to 0.02 Hz a second; speech shakes it a little.' },
      ],
    },
  },
  lists: {
    harmonicsOn: {
      title: 'Harmonics on',
      most: MOST_HARMONICS,
      numbers: { min: 1, max: MOST_HARMONICS },
      sentence: 'Which harmonics are subtracted; none listed means the first ones, up to the count.',
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
  create: (context, values) => new HumLines(context, values),
  live: {
    create: (context, values) => humNotch.create(context, values as unknown as NotchValues),
    values: (values) => ({ ...defaultValues(humNotch), ...values }),
    note: 'Narrow notches on the same lines instead: the voice loses a little of its own there.',
  },
});
