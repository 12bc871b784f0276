import { DelayLine } from '../../delay-line.js';
import { Cascade } from '../../filters/cascade.js';
import { copyFrames } from '../../copy-frames.js';
import { kWeighting } from '../../measures/k-weighting.js';
import type { Memory } from '../../memory.js';
import { createBlock, MAX_BLOCK_FRAMES, type PlanarBlock, type ProcessorContext } from '../../processor.js';
import { dbToGain } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { AHEAD_STEPS, SpeechLevel, STEP_FRAMES } from './speech-level.js';

const parameters = {
  targetLufs: {
    title: 'Speech at',
    unit: 'LUFS',
    min: -40,
    max: -10,
    default: -20,
    step: 0.5,
    practice: [-24, -16],
    scale: 'linear',
    sentence: 'How loud every phrase is to be: its words alone, without the gaps.',
  },
  rangeDb: {
    title: 'Range',
    unit: 'dB',
    min: 0,
    max: 20,
    default: 8,
    step: 0.5,
    practice: [4, 12],
    scale: 'linear',
    sentence: 'No phrase is lifted or lowered by more than this.',
  },
  speedSeconds: {
    title: 'Speed',
    unit: 's',
    min: 0.3,
    max: 10,
    default: 2,
    step: 0.1,
    practice: [1, 4],
    scale: 'log',
    sentence: 'Over so long the level is followed within a phrase; at the beginning of one it is known at once.',
  },
} as const;

type LevellingValues = ParameterValues<typeof parameters>;

/** The gain is up so many steps before a word, and stays so many after it. */
const BEFORE_STEPS = 7;
const AFTER_STEPS = 16;
/** How fast it moves, steps: with a voice, up to a word, and down in a gap. */
const GLIDE = { talk: 14, opening: 2.5, closing: 7 } as const;

/**
 * Slow gain between phrases and people, by the loudness of the words alone (K-weighted, ITU-R BS.1770-5). In gaps nothing is lifted, so that
 * the room stays where it is. It hears 0.4 s ahead.
 */
class Levelling implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames: number;
  readonly #ahead: number;
  readonly #rate: number;
  readonly #lines: DelayLine[];
  readonly #keys: Float32Array[];
  readonly #filters: Cascade[];
  readonly #speech = new SpeechLevel();
  #values: LevellingValues;
  /** Sum of squares of the step that is heard, a channel, and how many of its frames. */
  readonly #sums: Float64Array;
  #heard = 0;
  #gainDb = 0;
  #gain = 1;
  #slope = 0;

  /** @param aheadSteps how many steps are heard before they go out. */
  constructor({ sampleRateHz, channels, kernels }: ProcessorContext, values: LevellingValues, aheadSteps = AHEAD_STEPS) {
    this.#ahead = aheadSteps;
    this.latencyFrames = aheadSteps * STEP_FRAMES;
    this.#rate = sampleRateHz;
    this.#lines = Array.from({ length: channels }, () => new DelayLine(this.latencyFrames));
    this.#keys = createBlock(channels, MAX_BLOCK_FRAMES);
    this.#filters = this.#keys.map(() => new Cascade(kernels, kWeighting(sampleRateHz)));
    this.#sums = new Float64Array(channels);
    this.#values = values;
  }

  setParameters(values: LevellingValues): boolean {
    this.#values = values;
    return true;
  }

  reset(): void {
    for (const line of this.#lines) line.reset();
    for (const filter of this.#filters) filter.reset();
    this.#speech.reset();
    this.#sums.fill(0);
    this.#heard = this.#gainDb = this.#slope = 0;
    this.#gain = 1;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#lines.length; c++) {
      this.#lines[c]!.push(input[c]!, 0, frames);
      copyFrames(input[c]!, 0, this.#keys[c]!, 0, frames);
      this.#filters[c]!.process(this.#keys[c]!, 0, frames);
    }
    for (let from = 0; from < frames;) {
      const count = Math.min(frames - from, STEP_FRAMES - this.#heard);
      for (let c = 0; c < this.#keys.length; c++) {
        const key = this.#keys[c]!;
        const line = this.#lines[c]!.samples;
        const out = output[c]!;
        // One after the other and counted from the step, whatever the blocks: any split gives the same samples.
        let sum = this.#sums[c]!;
        for (let n = from, at = this.#heard + 1; n < from + count; n++, at++) {
          sum += key[n]! * key[n]!;
          out[n] = line[n]! * (this.#gain + at * this.#slope);
        }
        this.#sums[c] = sum;
      }
      this.#heard += count;
      from += count;
      if (this.#heard === STEP_FRAMES) this.#turn();
    }
    for (const line of this.#lines) line.shift(frames);
  }

  /** A step was heard; the gain of the one that comes out next. */
  #turn(): void {
    const { targetLufs, rangeDb, speedSeconds } = this.#values;
    const power = this.#sums.reduce((sum, one) => sum + one, 0) / STEP_FRAMES;
    this.#speech.take(-0.691 + 10 * Math.log10(power + 1e-13), (speedSeconds * this.#rate) / STEP_FRAMES);
    this.#sums.fill(0);
    this.#heard = 0;
    this.#gain += STEP_FRAMES * this.#slope;
    const ahead = Math.max(0, this.#ahead - 1);
    const level = this.#speech.level(ahead);
    const wished = Number.isNaN(level) ? 0 : Math.max(-rangeDb, Math.min(rangeDb, targetLufs - level));
    const talks = this.#speech.talks(Math.max(0, ahead - BEFORE_STEPS), ahead + AFTER_STEPS);
    const wanted = talks ? wished : Math.min(wished, 0);
    const steps = !talks ? GLIDE.closing : this.#speech.talks(ahead, ahead + AFTER_STEPS) ? GLIDE.talk : GLIDE.opening;
    this.#gainDb += (wanted - this.#gainDb) * (1 - Math.exp(-1 / steps));
    this.#slope = (dbToGain(this.#gainDb) - this.#gain) / STEP_FRAMES;
  }

  remember(memory: Memory): void {
    this.#speech.remember(memory);
    this.#gainDb = memory.number(this.#gainDb);
    this.#gain = memory.number(this.#gain);
    this.#slope = memory.number(this.#slope);
  }
}

export const levelling = defineTreatment({
  kind: 'levelling',
  title: 'Levelling',
  sentence: 'Brings every phrase and every person to the same loudness, slowly; the room between them is not lifted.',
  parameters,
  remembers: true,
  mayRaise: true,
  needsNoiseProfile: false,
  summary: ({ targetLufs, rangeDb }) => `words at ${targetLufs} LUFS · ±${rangeDb} dB`,
  create: (context, values) => new Levelling(context, values),
  live: {
    create: (context, values) => new Levelling(context, values, 0),
    note: 'It hears nothing ahead: the first word of a phrase comes at the level of the one before.',
  },
});
