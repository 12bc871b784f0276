import { GrowingList, LoudnessMeter, powerToDb, stepFramesOf, TruePeakMeter, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';

/** Steps of 20 ms of the treated sound, whole ones only. */
export interface WorkSteps {
  /** K-weighted mean square, all channels. */
  readonly powers: GrowingList;
  /** Sum of squares, all channels. */
  readonly energies: GrowingList;
  /** Largest magnitude of any channel. */
  readonly peaks: GrowingList;
}

export interface WorkLevel {
  readonly integratedLufs: number | null;
  readonly truePeakDbtp: number | null;
  /** Of all whole steps, dBFS. */
  readonly rmsDbfs: number | null;
  readonly steps: WorkSteps;
}

/** Level of so many samples with a sum of squares; null for silence. */
export const rmsOf = (sumOfSquares: number, samples: number): number | null =>
  sumOfSquares > 0 && samples > 0 ? powerToDb(sumOfSquares / samples) : null;

/** What must be known of the treated sound to bring it to a level. */
export class LevelOfWork {
  readonly #loudness: LoudnessMeter;
  readonly #truePeak: TruePeakMeter;
  readonly #powers = new GrowingList();
  readonly #energies = new GrowingList();
  readonly #peaks = new GrowingList();

  readonly #stepSamples: number;

  constructor({ kernels, sampleRateHz, channels }: ProcessorContext) {
    this.#stepSamples = stepFramesOf(sampleRateHz) * channels;
    this.#loudness = new LoudnessMeter(kernels, sampleRateHz, channels, undefined, (power, energy, peak) => {
      this.#powers.push(power);
      this.#energies.push(energy);
      this.#peaks.push(peak);
    });
    this.#truePeak = new TruePeakMeter(kernels, channels);
  }

  process(block: PlanarBlock, frames: number): void {
    this.#loudness.process(block, frames);
    this.#truePeak.process(block, frames);
  }

  finish(): WorkLevel {
    this.#truePeak.finish();
    const { truePeakDbtp } = this.#truePeak;
    return {
      integratedLufs: this.#loudness.integratedLufs ?? null,
      truePeakDbtp: Number.isFinite(truePeakDbtp) ? truePeakDbtp : null,
      rmsDbfs: rmsOf(
        this.#energies.values().reduce((sum, energy) => sum + energy, 0),
        this.#energies.length * this.#stepSamples,
      ),
      steps: { powers: this.#powers, energies: this.#energies, peaks: this.#peaks },
    };
  }
}
