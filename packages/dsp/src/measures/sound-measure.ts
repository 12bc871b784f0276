import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { LevelMeter } from './level-meter.js';
import { LoudnessMeter } from './loudness.js';
import { TruePeakMeter } from './true-peak-meter.js';

/** What is measured of a sound. null where there is nothing to measure: silence, or too short. */
export interface SoundFigures {
  readonly integratedLufs: number | null;
  readonly loudnessRangeLu: number | null;
  readonly maxMomentaryLufs: number | null;
  readonly maxShortTermLufs: number | null;
  readonly truePeakDbtp: number | null;
  readonly samplePeakDbfs: number | null;
  readonly rmsDbfs: number | null;
  readonly noiseFloorDbfs: number | null;
  readonly dcOffset: number;
  readonly durationSeconds: number;
  readonly sampleRateHz: number;
  readonly channels: number;
}

const finite = (value: number | undefined): number | null => (value !== undefined && Number.isFinite(value) ? value : null);

/** All measures of one stream in one pass; memory grows by 12 KB a minute. */
export class SoundMeasure {
  readonly loudness: LoudnessMeter;
  readonly #levels: LevelMeter;
  readonly #truePeak: TruePeakMeter;

  constructor(
    kernels: KernelModule,
    private readonly sampleRateHz: number,
    private readonly channels: number,
    /** Of each channel in the loudness; left out, one. */
    weights?: readonly number[],
  ) {
    this.loudness = new LoudnessMeter(kernels, sampleRateHz, channels, weights);
    this.#levels = new LevelMeter(sampleRateHz, channels);
    this.#truePeak = new TruePeakMeter(kernels, channels);
  }

  process(block: PlanarBlock, frames: number): void {
    this.loudness.process(block, frames);
    this.#levels.process(block, frames);
    this.#truePeak.process(block, frames);
  }

  /** Ends the stream and returns the figures. Call once. */
  finish(): SoundFigures {
    this.#truePeak.finish();
    const { loudness } = this;
    return {
      integratedLufs: finite(loudness.integratedLufs),
      loudnessRangeLu: finite(loudness.loudnessRangeLu),
      maxMomentaryLufs: finite(loudness.maxMomentaryLufs),
      maxShortTermLufs: finite(loudness.maxShortTermLufs),
      truePeakDbtp: finite(this.#truePeak.truePeakDbtp),
      samplePeakDbfs: finite(this.#levels.samplePeakDbfs),
      rmsDbfs: finite(this.#levels.rmsDbfs),
      noiseFloorDbfs: finite(this.#levels.noiseFloorDbfs),
      dcOffset: this.#levels.dcOffset,
      durationSeconds: this.#levels.frames / this.sampleRateHz,
      sampleRateHz: this.sampleRateHz,
      channels: this.channels,
    };
  }
}
