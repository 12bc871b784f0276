import { LimiterKernel, TruePeakKernel } from '../kernels/peak-kernels.js';
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
  readonly #peaks: TruePeakKernel[];
  readonly #gains: LimiterKernel;
  readonly #delay: Float32Array[];
  readonly #gain: number;
  readonly #ceiling: number;
  readonly #releaseShare: number;
  #at = 0;
  #leastGain = 1;
  #limitedFrames = 0;

  constructor(
    { sampleRateHz, channels, kernels }: ProcessorContext,
    { gainDb, ceilingDbtp }: LimiterSettings,
  ) {
    const reachFrames = Math.max(8, msToFrames(LOOK_AHEAD_MS, sampleRateHz));
    this.latencyFrames = reachFrames - 1 + TruePeakKernel.latencyFrames;
    this.#peaks = Array.from({ length: channels }, () => new TruePeakKernel(kernels));
    this.#gains = new LimiterKernel(kernels, reachFrames);
    this.#delay = Array.from({ length: channels }, () => new Float32Array(this.latencyFrames + 1));
    this.#gain = dbToGain(gainDb);
    this.#ceiling = dbToGain(ceilingDbtp);
    this.#releaseShare = 1 - Math.exp(-1000 / (RELEASE_MS * sampleRateHz));
  }

  /** Largest reduction so far, in dB. 0 when nothing was limited. */
  get mostReductionDb(): number {
    return Math.max(0, -gainToDb(this.#leastGain));
  }

  /** Frames so far that were lowered by 0.1 dB or more. */
  get limitedFrames(): number {
    return this.#limitedFrames;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const { control } = this.#gains;
    control.fill(0, 0, frames);
    for (let c = 0; c < this.#peaks.length; c++) {
      const peaks = this.#peaks[c]!;
      peaks.process(input[c]!, 0, frames);
      for (let n = 0; n < frames; n++) control[n] = Math.max(control[n]!, peaks.envelope[n]! * this.#gain);
    }
    this.#gains.process(frames, this.#ceiling, this.#releaseShare);
    const length = this.latencyFrames + 1;
    for (let n = 0; n < frames; n++) {
      const gain = control[n]!;
      if (gain < this.#leastGain) this.#leastGain = gain;
      if (gain < 0.98855) this.#limitedFrames++;
      const writeAt = this.#at;
      this.#at = writeAt + 1 === length ? 0 : writeAt + 1;
      for (let c = 0; c < this.#delay.length; c++) {
        const line = this.#delay[c]!;
        line[writeAt] = input[c]![n]!;
        output[c]![n] = line[this.#at]! * this.#gain * gain;
      }
    }
  }

  reset(): void {
    for (const kernel of this.#peaks) kernel.reset();
    for (const line of this.#delay) line.fill(0);
    this.#leastGain = 1;
    this.#limitedFrames = 0;
  }
}
