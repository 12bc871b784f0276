import { LimiterKernel } from '../kernels/peak-kernels.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { dbToGain, gainToDb, msToFrames } from '../units.js';

export interface LimiterSettings {
  /** Fixed gain before the limiter. */
  readonly gainDb: number;
  readonly ceilingDbtp: number;
}

const LOOK_AHEAD_MS = 5;
const RELEASE_MS = 80;

/**
 * Gain, then a true-peak limiter with look-ahead: the gain is down before a peak arrives and comes back over
 * about 80 ms. Peaks are taken at 4 × oversampling; all channels get the same gain. What stays under the
 * ceiling is not touched.
 */
export class TruePeakLimiter implements Processor {
  readonly latencyFrames: number;
  readonly #create: () => LimiterKernel;
  #kernel: LimiterKernel;
  readonly #gain: number;
  readonly #ceiling: number;
  readonly #releaseShare: number;

  constructor({ sampleRateHz, channels, kernels }: ProcessorContext, { gainDb, ceilingDbtp }: LimiterSettings) {
    const reachFrames = Math.max(8, msToFrames(LOOK_AHEAD_MS, sampleRateHz));
    this.#create = () => new LimiterKernel(kernels, reachFrames, channels);
    this.#kernel = this.#create();
    this.latencyFrames = this.#kernel.latencyFrames;
    this.#gain = dbToGain(gainDb);
    this.#ceiling = dbToGain(ceilingDbtp);
    this.#releaseShare = 1 - Math.exp(-1000 / (RELEASE_MS * sampleRateHz));
  }

  /** Largest reduction so far, in dB. 0 when nothing was limited. */
  get mostReductionDb(): number {
    return Math.max(0, -gainToDb(this.#kernel.leastGain));
  }

  /** Frames so far that were lowered by 0.1 dB or more. */
  get limitedFrames(): number {
    return this.#kernel.limitedFrames;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    this.#kernel.process(input, output, frames, { gain: this.#gain, ceiling: this.#ceiling, releaseShare: this.#releaseShare });
  }

  reset(): void {
    this.#kernel = this.#create();
  }
}
