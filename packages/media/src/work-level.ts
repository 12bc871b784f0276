import { LoudnessMeter, TruePeakMeter, type ProcessorContext } from '@euphonos/dsp';

export interface WorkLevel {
  readonly integratedLufs: number | null;
  readonly truePeakDbtp: number | null;
}

/** What must be known of the treated sound to bring it to a level. */
export class LevelOfWork {
  readonly #loudness: LoudnessMeter;
  readonly #truePeak: TruePeakMeter;

  constructor({ kernels, sampleRateHz, channels }: ProcessorContext) {
    this.#loudness = new LoudnessMeter(kernels, sampleRateHz, channels);
    this.#truePeak = new TruePeakMeter(kernels, channels);
  }

  process(block: readonly Float32Array[], frames: number): void {
    this.#loudness.process(block, frames);
    this.#truePeak.process(block, frames);
  }

  finish(): WorkLevel {
    this.#truePeak.finish();
    const { truePeakDbtp } = this.#truePeak;
    return { integratedLufs: this.#loudness.integratedLufs ?? null, truePeakDbtp: Number.isFinite(truePeakDbtp) ? truePeakDbtp : null };
  }
}
