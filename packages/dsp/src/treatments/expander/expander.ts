import { copyFrames } from '../../copy-frames.js';
import { DelayLine } from '../../delay-line.js';
import { Cascade } from '../../filters/cascade.js';
import type { Memory } from '../../memory.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock, type ProcessorContext } from '../../processor.js';
import { dbToGain, msToFrames, powerToDb } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { listens, voiceBand } from '../listens.js';

const parameters = {
  thresholdDb: {
    title: 'Threshold',
    unit: 'dBFS',
    min: -90,
    max: 0,
    default: -46,
    step: 0.5,
    practice: [-54, -38],
    scale: 'linear',
    sentence: 'Level below which it begins: a little under the softest ends of words.',
  },
  ratio: {
    title: 'Ratio',
    unit: ':1',
    min: 1.1,
    max: 6,
    default: 1.6,
    step: 0.1,
    practice: [1.3, 2],
    scale: 'linear',
    sentence: 'What is a decibel below the threshold comes out so many decibels below.',
  },
  rangeDb: {
    title: 'Range',
    unit: 'dB',
    min: 0,
    max: 60,
    default: 12,
    step: 0.5,
    practice: [6, 15],
    scale: 'linear',
    sentence: 'No more than this, however quiet it gets.',
  },
  kneeDb: {
    title: 'Knee',
    unit: 'dB',
    min: 0,
    max: 24,
    default: 6,
    step: 0.5,
    practice: [3, 10],
    scale: 'linear',
    finer: true,
    sentence: 'Width around the threshold over which it sets in gradually.',
  },
  attackMs: {
    title: 'Attack',
    unit: 'ms',
    min: 0.5,
    max: 100,
    default: 5,
    step: 0.5,
    practice: [2, 10],
    scale: 'log',
    sentence: 'How fast it lets a word through.',
  },
  releaseMs: {
    title: 'Release',
    unit: 'ms',
    min: 5,
    max: 2000,
    default: 180,
    step: 5,
    practice: [100, 300],
    scale: 'log',
    sentence: 'How slowly it comes down after a word.',
  },
} as const;

export type ExpanderValues = ParameterValues<typeof parameters>;

/** Gain is computed this often, and moves in straight lines in between. */
const STEP_FRAMES = 32;
const LOOK_AHEAD_MS = 5;
/** Averaging time of the level: short against a consonant, long against a period of a low voice. */
const DETECTOR_MS = 6;

/**
 * Static curve of a downward expander with a quadratic knee: gain in dB (0 or less) at a level.
 * (Giannoulis, Massberg & Reiss 2012, eq. 4, turned to the side below the threshold.)
 */
export function expanderGainDb(levelDb: number, { thresholdDb, ratio, rangeDb, kneeDb }: ExpanderValues): number {
  const under = thresholdDb - levelDb;
  const slope = ratio - 1;
  const half = kneeDb / 2;
  const down = under <= -half ? 0 : under >= half ? slope * under : (slope * (under + half) ** 2) / (2 * kneeDb);
  return -Math.min(rangeDb, down);
}

/** Downward expander on the mean square of the louder channel; all channels get the same gain. */
class Expander implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames: number;
  readonly #rate: number;
  readonly #lines: DelayLine[];
  readonly #keys: Float32Array[];
  readonly #filters: Cascade[] | null;
  readonly #detectorShare: number;
  readonly #listens: string;
  #values: ExpanderValues;
  #attackShare = 1;
  #releaseShare = 1;
  #power = 0;
  #gainDb = 0;
  #gain = 1;
  #slope = 0;
  #left = 0;

  constructor({ sampleRateHz, channels, kernels }: ProcessorContext, values: ExpanderValues, lookAheadMs: number = LOOK_AHEAD_MS) {
    this.#rate = sampleRateHz;
    this.latencyFrames = msToFrames(lookAheadMs, sampleRateHz);
    this.#lines = Array.from({ length: channels }, () => new DelayLine(this.latencyFrames));
    this.#keys = Array.from({ length: channels }, () => new Float32Array(MAX_BLOCK_FRAMES));
    this.#listens = values['listens'] as string;
    this.#filters = this.#listens === 'voice' ? this.#lines.map(() => new Cascade(kernels, voiceBand(sampleRateHz))) : null;
    this.#detectorShare = 1 - Math.exp(-1000 / (DETECTOR_MS * sampleRateHz));
    this.#values = values;
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: ExpanderValues): boolean {
    if (values['listens'] !== this.#listens) return false;
    const share = (ms: number): number => 1 - Math.exp(-STEP_FRAMES / Math.max(1, (ms / 1000) * this.#rate));
    this.#values = values;
    this.#attackShare = share(values.attackMs);
    this.#releaseShare = share(values.releaseMs);
    return true;
  }

  reset(): void {
    for (const line of this.#lines) line.reset();
    for (const filter of this.#filters ?? []) filter.reset();
    this.#power = 0;
    this.#gainDb = -this.#values.rangeDb;
    this.#gain = dbToGain(this.#gainDb);
    this.#slope = 0;
    this.#left = 0;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#lines.length; c++) {
      this.#lines[c]!.push(input[c]!, 0, frames);
      copyFrames(input[c]!, 0, this.#keys[c]!, 0, frames);
      this.#filters?.[c]!.process(this.#keys[c]!, 0, frames);
    }
    for (let n = 0; n < frames; n++) {
      let loudest = 0;
      for (let c = 0; c < this.#keys.length; c++) loudest = Math.max(loudest, this.#keys[c]![n]! ** 2);
      this.#power += this.#detectorShare * (loudest - this.#power) + 1e-30;
      if (this.#left === 0) this.#turn();
      this.#left--;
      this.#gain += this.#slope;
      for (let c = 0; c < this.#lines.length; c++) output[c]![n] = this.#lines[c]!.samples[n]! * this.#gain;
    }
    for (const line of this.#lines) line.shift(frames);
  }

  remember(memory: Memory): void {
    this.#power = memory.number(this.#power);
    this.#gainDb = memory.number(this.#gainDb);
    this.#gain = memory.number(this.#gain);
    this.#slope = memory.number(this.#slope);
    this.#left = memory.number(this.#left);
  }

  /** The next stretch of gain: towards what the curve says of the level now. */
  #turn(): void {
    const wantedDb = expanderGainDb(powerToDb(this.#power), this.#values);
    this.#gainDb += (wantedDb > this.#gainDb ? this.#attackShare : this.#releaseShare) * (wantedDb - this.#gainDb);
    this.#slope = (dbToGain(this.#gainDb) - this.#gain) / STEP_FRAMES;
    this.#left = STEP_FRAMES;
  }
}

export const expander = defineTreatment({
  kind: 'expander',
  title: 'Expander',
  sentence: 'Lowers what is quiet the further the quieter it is: softer than a gate, no word is cut off.',
  parameters,
  choices: { listens },
  remembers: true,
  needsNoiseProfile: false,
  summary: (values) => `below ${values.thresholdDb} dBFS · ${values.ratio}:1 · ${values.rangeDb} dB at most`,
  create: (context, values) => new Expander(context, values),
  live: {
    create: (context, values) => new Expander(context, values, 0),
    note: 'It hears nothing ahead: a word is let through as fast as the attack goes.',
  },
});
