import { dbToGain, dbToPower } from '../../units.js';

/** The noise of a bin is read off the quieter part of its frames; under an exponential law this is its share of the mean. */
const QUIET_SHARE = 0.3;
const QUIET_OF_MEAN = -Math.log(1 - QUIET_SHARE);
/** Weight of the past in the decision-directed estimate (Ephraim & Malah 1984, section V). */
const DECISION_MEMORY = 0.96;
const LEAST_PRIOR = dbToPower(-25);
const LEAST_POWER = 1e-16;
/** Power is looked at over so many bins to either side and the frames before and after: single peaks of noise are none of the sound. */
const REACH_BINS = 2;

/**
 * Noise reduction in one box of time and frequency, by the noise of that box itself: what is steady in it is lowered,
 * what stands out stays. Wiener gain on the decision-directed a-priori SNR.
 */
export class BoxNoise {
  readonly #noise: Float32Array;
  readonly #heard: Float32Array;
  readonly #sorted: Float32Array;

  /** @param frames of the box, at most. */
  constructor(bins: number, frames: number) {
    this.#noise = new Float32Array(bins);
    this.#heard = new Float32Array(bins);
    this.#sorted = new Float32Array(frames);
  }

  /** Learns the noise of bins [low, high]. `power(i)` is the power spectrum of frame i of the box. */
  learn(low: number, high: number, frames: number, power: (frame: number) => Float32Array): void {
    const part = this.#sorted.subarray(0, frames);
    for (let k = low; k <= high; k++) {
      for (let i = 0; i < frames; i++) part[i] = power(i)[k]!;
      part.sort();
      this.#noise[k] = Math.max(LEAST_POWER, part[Math.floor(QUIET_SHARE * (frames - 1))]! / QUIET_OF_MEAN);
    }
    this.#heard.fill(0);
  }

  /** The gain of a bin in a frame, frame by frame in their order, from the power around it. */
  gain(bin: number, before: Float32Array, power: Float32Array, after: Float32Array, reductionDb: number): number {
    const noise = this.#noise[bin]!;
    let around = 0;
    let count = 0;
    for (let k = Math.max(0, bin - REACH_BINS); k <= Math.min(power.length - 1, bin + REACH_BINS); k++) {
      around += before[k]! + power[k]! + after[k]!;
      count += 3;
    }
    around /= count;
    const prior = Math.max(
      LEAST_PRIOR,
      DECISION_MEMORY * (this.#heard[bin]! / noise) + (1 - DECISION_MEMORY) * Math.max(0, around / noise - 1),
    );
    const gain = Math.max(prior / (1 + prior), dbToGain(-reductionDb));
    this.#heard[bin] = gain * gain * around;
    return gain;
  }
}
