import type { PlanarBlock } from '../processor.js';
import { gainToDb, powerToDb } from '../units.js';

const STEP_SECONDS = 0.1;
/** The floor is measured in windows of two steps: 200 ms fits between words. */
const FLOOR_STEPS = 2;
/** Share of the windows below the one that is called the floor: a few odd windows do not decide. */
const FLOOR_QUANTILE = 0.03;

/** Sample peak, RMS, DC offset and noise floor of a stream, over all channels. */
export class LevelMeter {
  readonly #stepFrames: number;
  readonly #steps: number[] = [];
  readonly #dcSums: Float64Array;
  #peak = 0;
  #squares = 0;
  #frames = 0;
  #stepSquares = 0;
  #stepFill = 0;

  constructor(
    sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.#stepFrames = Math.round(STEP_SECONDS * sampleRateHz);
    this.#dcSums = new Float64Array(channels);
  }

  process(block: PlanarBlock, frames: number): void {
    let from = 0;
    while (from < frames) {
      const to = Math.min(frames, from + this.#stepFrames - this.#stepFill);
      for (let c = 0; c < this.channels; c++) this.#add(block[c]!, c, from, to);
      this.#stepFill += to - from;
      this.#frames += to - from;
      from = to;
      if (this.#stepFill === this.#stepFrames) {
        this.#steps.push(this.#stepSquares / (this.#stepFrames * this.channels));
        this.#squares += this.#stepSquares;
        this.#stepSquares = 0;
        this.#stepFill = 0;
      }
    }
  }

  #add(samples: Float32Array, channel: number, from: number, to: number): void {
    let peak = this.#peak;
    let sum = 0;
    let squares = 0;
    for (let n = from; n < to; n++) {
      const x = samples[n]!;
      const magnitude = x < 0 ? -x : x;
      if (magnitude > peak) peak = magnitude;
      sum += x;
      squares += x * x;
    }
    this.#peak = peak;
    this.#dcSums[channel]! += sum;
    this.#stepSquares += squares;
  }

  get frames(): number {
    return this.#frames;
  }

  /** dBFS; a full-scale sample is 0. -Infinity for silence. */
  get samplePeakDbfs(): number {
    return gainToDb(this.#peak);
  }

  /** RMS over all frames and channels in dB below a full-scale square wave (a full-scale sine is -3.01). */
  get rmsDbfs(): number {
    return powerToDb((this.#squares + this.#stepSquares) / Math.max(1, this.#frames * this.channels));
  }

  /** Mean sample value of the channel that is furthest off, as a fraction of full scale. */
  get dcOffset(): number {
    let worst = 0;
    for (const sum of this.#dcSums) if (Math.abs(sum) > Math.abs(worst)) worst = sum;
    return this.#frames === 0 ? 0 : worst / this.#frames;
  }

  /**
   * RMS of the quiet stretches: the 3 % quantile of 200 ms windows, every 100 ms, digital silence left out.
   * The window and the quantile are common practice, no source. -Infinity when all is silent or under 200 ms.
   */
  get noiseFloorDbfs(): number {
    const windows: number[] = [];
    for (let i = FLOOR_STEPS; i <= this.#steps.length; i++) {
      let sum = 0;
      for (let j = i - FLOOR_STEPS; j < i; j++) sum += this.#steps[j]!;
      if (sum > 1e-16) windows.push(sum / FLOOR_STEPS);
    }
    windows.sort((a, b) => a - b);
    return windows.length === 0 ? -Infinity : powerToDb(windows[Math.floor(FLOOR_QUANTILE * windows.length)]!);
  }
}
