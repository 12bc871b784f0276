import { copyFrames } from '../../copy-frames.js';
import { Cascade } from '../../filters/cascade.js';
import { firstOrderHighPassSection } from '../../filters/sections.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock, type ProcessorContext } from '../../processor.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';

/** A constant offset is what lies below; a voice at 80 Hz is turned by 3.6° and lowered by 0.02 dB. */
const OFFSET_CUTOFF_HZ = 5;

/** What each output is made of, as gains of the first and the second input. */
const ROUTES: Readonly<Record<string, readonly [readonly [number, number], readonly [number, number]]>> = {
  'as-it-is': [
    [1, 0],
    [0, 1],
  ],
  first: [
    [1, 0],
    [1, 0],
  ],
  second: [
    [0, 1],
    [0, 1],
  ],
  sum: [
    [0.5, 0.5],
    [0.5, 0.5],
  ],
  difference: [
    [0.5, -0.5],
    [0.5, -0.5],
  ],
  swap: [
    [0, 1],
    [1, 0],
  ],
};

const parameters = {} as const;

const choices = {
  route: {
    title: 'Channels',
    default: 'as-it-is',
    sentence: 'Which side is heard on which side.',
    options: [
      { value: 'as-it-is', title: 'as they are', sentence: 'Both sides stay where they are.' },
      { value: 'first', title: 'left only', sentence: 'The left side on both.' },
      { value: 'second', title: 'right only', sentence: 'The right side on both.' },
      { value: 'sum', title: 'sum', sentence: 'Half of each on both: what is the same on both sides stays.' },
      { value: 'difference', title: 'difference', sentence: 'Half of left less right: what is the same on both sides goes.' },
      { value: 'swap', title: 'swapped', sentence: 'Left and right change places.' },
    ],
  },
  polarity: {
    title: 'Polarity',
    default: 'as-it-is',
    sentence: 'Turns the sign of a side: for a wrongly wired microphone.',
    options: [
      { value: 'as-it-is', title: 'as it is', sentence: 'No sign is turned.' },
      { value: 'first', title: 'turn left', sentence: 'Turns the sign of the left side.' },
      { value: 'second', title: 'turn right', sentence: 'Turns the sign of the right side.' },
      { value: 'both', title: 'turn both', sentence: 'Turns the sign of both sides.' },
    ],
  },
  offset: {
    title: 'DC offset',
    default: 'out',
    sentence: 'A constant offset eats headroom and clicks at every edit.',
    options: [
      { value: 'out', title: 'taken out', sentence: 'What lies below 5 Hz is taken out.' },
      { value: 'kept', title: 'kept', sentence: 'The offset stays.' },
    ],
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** Polarity, then routing, then the offset. Sides change over 10 ms, so that nothing clicks. */
class Channels implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames = 0;
  /** Gains of inputs to outputs, [output][input], as they are now and where they go. */
  readonly #now = new Float64Array(4);
  readonly #goal = new Float64Array(4);
  readonly #step: number;
  readonly #offset: Cascade[];
  readonly #keepsOffset: boolean;
  readonly #work: Float32Array[];

  constructor({ channels, sampleRateHz, kernels }: ProcessorContext, values: Values) {
    this.#step = 1 / (0.01 * sampleRateHz);
    this.#offset = Array.from(
      { length: channels },
      () => new Cascade(kernels, [firstOrderHighPassSection(OFFSET_CUTOFF_HZ, sampleRateHz)]),
    );
    this.#work = Array.from({ length: 2 }, () => new Float32Array(MAX_BLOCK_FRAMES));
    this.#keepsOffset = values['offset'] === 'kept';
    this.setParameters(values);
    this.#now.set(this.#goal);
  }

  setParameters(values: Values): boolean {
    if ((values['offset'] === 'kept') !== this.#keepsOffset) return false;
    const signs = [/first|both/.test(values['polarity'] as string) ? -1 : 1, /second|both/.test(values['polarity'] as string) ? -1 : 1];
    const route = ROUTES[values['route'] as string]!;
    for (let to = 0; to < 2; to++) for (let from = 0; from < 2; from++) this.#goal[2 * to + from] = route[to]![from]! * signs[from]!;
    // One channel has no other side: only its sign can be turned.
    if (this.#offset.length === 1) this.#goal.set([signs[0]!, 0, 0, 0]);
    return true;
  }

  reset(): void {
    this.#now.set(this.#goal);
    for (const cascade of this.#offset) cascade.reset();
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const channels = output.length;
    for (let c = 0; c < channels; c++) copyFrames(input[c]!, 0, this.#work[c]!, 0, frames);
    const [first, second] = this.#work as [Float32Array, Float32Array];
    const [now, goal, step] = [this.#now, this.#goal, this.#step];
    for (let n = 0; n < frames; n++) {
      for (let i = 0; i < 4; i++) {
        const missing = goal[i]! - now[i]!;
        now[i] = Math.abs(missing) <= step ? goal[i]! : now[i]! + Math.sign(missing) * step;
      }
      const a = first[n]!;
      const b = channels > 1 ? second[n]! : 0;
      for (let c = 0; c < channels; c++) output[c]![n] = now[2 * c]! * a + now[2 * c + 1]! * b;
    }
    if (!this.#keepsOffset) for (let c = 0; c < channels; c++) this.#offset[c]!.process(output[c]!, 0, frames);
  }
}

const wordOf = (name: keyof typeof choices, value: unknown): string =>
  choices[name].options.find((option) => option.value === value)!.title;

export const channels = defineTreatment({
  kind: 'channels',
  title: 'Channels',
  sentence: 'Which side is heard, its polarity, and a constant offset taken out.',
  parameters,
  choices,
  needsNoiseProfile: false,
  summary: (values) => `${wordOf('route', values['route'])} · offset ${wordOf('offset', values['offset'])}`,
  create: (context, values) => new Channels(context, values),
});
