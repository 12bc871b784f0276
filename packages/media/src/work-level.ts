import { GrowingList, LoudnessMeter, stepFramesOf, TruePeakMeter, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';

/** Steps of 20 ms of the treated sound, whole ones only. */
export interface WorkSteps {
  /** K-weighted mean square, all channels. */
  readonly powers: Float64Array;
  /** Sum of squares, all channels. */
  readonly energies: Float64Array;
  /** Largest magnitude of any channel. */
  readonly peaks: Float64Array;
}

export interface WorkLevel {
  readonly integratedLufs: number | null;
  readonly truePeakDbtp: number | null;
  readonly steps: WorkSteps;
}

/** What must be known of the treated sound to bring it to a level. */
export class LevelOfWork {
  readonly #loudness: LoudnessMeter;
  readonly #truePeak: TruePeakMeter;
  readonly #stepFrames: number;
  readonly #powers = new GrowingList();
  readonly #energies = new GrowingList();
  readonly #peaks = new GrowingList();
  #fill = 0;
  #energy = 0;
  #peak = 0;

  constructor({ kernels, sampleRateHz, channels }: ProcessorContext) {
    this.#loudness = new LoudnessMeter(kernels, sampleRateHz, channels, undefined, (power) => this.#powers.push(power));
    this.#truePeak = new TruePeakMeter(kernels, channels);
    this.#stepFrames = stepFramesOf(sampleRateHz);
  }

  process(block: PlanarBlock, frames: number): void {
    this.#loudness.process(block, frames);
    this.#truePeak.process(block, frames);
    for (let from = 0; from < frames;) {
      const count = Math.min(frames - from, this.#stepFrames - this.#fill);
      for (const samples of block) this.#take(samples, from, from + count);
      from += count;
      this.#fill += count;
      if (this.#fill === this.#stepFrames) this.#endStep();
    }
  }

  #take(samples: Float32Array, from: number, to: number): void {
    let most = this.#peak;
    let sum = 0;
    for (let n = from; n < to; n++) {
      const x = Math.abs(samples[n]!);
      sum += x * x;
      if (x > most) most = x;
    }
    this.#peak = most;
    this.#energy += sum;
  }

  #endStep(): void {
    this.#energies.push(this.#energy);
    this.#peaks.push(this.#peak);
    this.#fill = 0;
    this.#energy = 0;
    this.#peak = 0;
  }

  finish(): WorkLevel {
    this.#truePeak.finish();
    const { truePeakDbtp } = this.#truePeak;
    return {
      integratedLufs: this.#loudness.integratedLufs ?? null,
      truePeakDbtp: Number.isFinite(truePeakDbtp) ? truePeakDbtp : null,
      steps: { powers: this.#powers.values(), energies: this.#energies.values(), peaks: this.#peaks.values() },
    };
  }
}
