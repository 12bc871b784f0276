import type { KernelModule } from '../../kernels/instance.js';
import { RealFft } from '../../kernels/real-fft.js';
import { clickWeights } from './click-weights.js';

/** Short frames: 1.33 ms, three of them a millisecond, as a click is heard: in bands, against what each band holds around. */
const FRAME_SECONDS = 64 / 48_000;
const FRAMES_A_SECOND = 3000;
/** Edges of the bands, Hz: the middle of the bins they are made of at 48 kHz. */
const BAND_HZ = [1125, 1875, 2625, 3375, 4875, 6375, 8625, 11_625, 16_125] as const;
export const BANDS = BAND_HZ.length - 1;
/** Stretches before and after the click, each by its loudest frame. */
const POOLS = [
  [-150, -60],
  [-60, -30],
  [-30, -15],
  [-15, -9],
  [-9, -6],
  [-6, -4],
  [-4, -2],
  [3, 5],
  [5, 7],
  [7, 10],
  [10, 16],
  [16, 31],
  [31, 61],
  [61, 151],
] as const;
/** So many frames around are compared with, but for those nearest. */
const AROUND = 60;
const APART = 6;
const PEAK_APART = 3;
const LEAST_PROMINENCE_DB = 3;
const NOT_OUT_DB = 0;
/** A level, as powers of the short frames go, that is nobody's trouble: some -85 dBFS. */
const LEAST_LEVEL_DB = -75;
/** Of a band above half the sample rate. */
const NOTHING_DB = -90;
const INPUTS = BANDS * (POOLS.length + 2);

/** Levels of the bands of a strip of hops, moved on hop by hop, and what of it is a click. */
export class ClickDetector {
  /** Frames a hop; and samples from one to the next. */
  readonly perHop: number;
  readonly frameSamples: number;
  readonly #levels: Float64Array;
  readonly #prominence: Float64Array;
  /** The most that any band of a frame stands out, dB. */
  readonly #tops: Float64Array;
  readonly #fft: RealFft;
  readonly #window: Float64Array;
  /** First bin of each band and the one after the last. */
  readonly #bins: Int32Array;
  readonly #features = new Float64Array(INPUTS);
  readonly #units = new Float64Array(clickWeights.firstBias.length);
  readonly #centre = new Float64Array(BANDS);

  /** @param hops of the strip. */
  constructor(
    kernels: KernelModule,
    sampleRateHz: number,
    hop: number,
    private readonly hops: number,
  ) {
    this.perHop = Math.round(hop / (sampleRateHz / FRAMES_A_SECOND));
    this.frameSamples = hop / this.perHop;
    const length = Math.round(FRAME_SECONDS * sampleRateHz);
    const size = Math.max(64, 2 ** Math.ceil(Math.log2(length)));
    this.#fft = new RealFft(kernels, size);
    // Levels as at 48 kHz, whatever the rate.
    this.#window = Float64Array.from({ length }, (_, n) => (64 / length) * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / length)));
    this.#bins = Int32Array.from(BAND_HZ, (hz) => Math.min(size / 2 + 1, Math.round((hz * size) / sampleRateHz)));
    this.#levels = new Float64Array(hops * this.perHop * BANDS);
    this.#prominence = new Float64Array(hops * this.perHop * BANDS);
    this.#tops = new Float64Array(hops * this.perHop);
    this.reset();
  }

  reset(): void {
    this.#levels.fill(NOTHING_DB);
    this.#prominence.fill(0);
    this.#tops.fill(0);
  }

  /** The strip has moved on by a hop. */
  moveOn(): void {
    this.#levels.copyWithin(0, this.perHop * BANDS);
    this.#prominence.copyWithin(0, this.perHop * BANDS);
    this.#tops.copyWithin(0, this.perHop);
  }

  /** Levels of the frames [from, to) of the strip, as it is now. */
  hear(x: Float64Array, from: number, to: number): void {
    const { frame, re, im, size } = this.#fft;
    const window = this.#window;
    const scale = 64 / size;
    for (let t = Math.max(0, from); t < Math.min(this.hops * this.perHop, to); t++) {
      const start = Math.round(t * this.frameSamples) - (window.length >> 1);
      if (start >= 0 && start + window.length <= x.length) for (let n = 0; n < window.length; n++) frame[n] = x[start + n]! * window[n]!;
      else for (let n = 0; n < window.length; n++) frame[n] = (x[start + n] ?? 0) * window[n]!;
      frame.fill(0, window.length);
      this.#fft.forward();
      for (let b = 0; b < BANDS; b++) {
        const [first, last] = [this.#bins[b]!, Math.max(this.#bins[b]! + 1, this.#bins[b + 1]!)];
        let sum = 0;
        for (let k = first; k < last && k <= size / 2; k++) sum += re[k]! * re[k]! + im[k]! * im[k]!;
        this.#levels[t * BANDS + b] = first > size / 2 ? NOTHING_DB : 10 * Math.log10(sum / (last - first) + 1e-9 * scale);
      }
    }
  }

  /** How far each band of the frames [from, to) stands out of what it holds around; where that is hardly anything, NOT_OUT_DB. */
  compare(from: number, to: number): void {
    for (let t = from; t < to; t++) {
      let top = NOT_OUT_DB;
      for (let b = 0; b < BANDS; b++) {
        const out = this.#mayStandOut(t, b) ? this.#outDb(t, b) : NOT_OUT_DB;
        this.#prominence[t * BANDS + b] = out;
        if (out > top) top = out;
      }
      this.#tops[t] = top;
    }
  }

  /** False as soon as three frames around are about as loud: of most frames after a look at a few. */
  #mayStandOut(t: number, b: number): boolean {
    const levels = this.#levels;
    const limit = levels[t * BANDS + b]! - LEAST_PROMINENCE_DB;
    if (limit < LEAST_LEVEL_DB) return false;
    let louder = 0;
    for (let d = APART + 1; d <= AROUND; d++) {
      if (levels[(t - d) * BANDS + b]! > limit && ++louder === 3) return false;
      if (levels[(t + d) * BANDS + b]! > limit && ++louder === 3) return false;
    }
    return true;
  }

  /** Level of a band against the third-loudest frame around: the 98th percentile of them. */
  #outDb(t: number, b: number): number {
    const levels = this.#levels;
    let first = -Infinity;
    let second = -Infinity;
    let third = -Infinity;
    for (let d = APART + 1; d <= AROUND; d++)
      for (let side = -d; side <= d; side += 2 * d) {
        const level = levels[(t + side) * BANDS + b] ?? NOTHING_DB;
        if (level <= third) continue;
        if (level > first) {
          third = second;
          second = first;
          first = level;
        } else if (level > second) {
          third = second;
          second = level;
        } else third = level;
      }
    return levels[t * BANDS + b]! - third;
  }

  /** How sure it is that a frame is a click: the logit of the network; -Infinity where nothing stands out. */
  judge(t: number): number {
    const top = this.#tops[t]!;
    if (top <= LEAST_PROMINENCE_DB) return -Infinity;
    for (let d = 1; d <= PEAK_APART; d++) if (this.#tops[t - d]! > top || this.#tops[t + d]! > top) return -Infinity;
    this.#describe(t);
    return this.#network();
  }

  /** Where the bands that stand out do so, around a frame: [first, last] frame. */
  extent(t: number): readonly [number, number] {
    const stands = (at: number): boolean => {
      for (let b = 0; b < BANDS; b++) {
        const o = t * BANDS + b;
        const around = this.#levels[o]! - this.#prominence[o]!;
        if (this.#prominence[o]! > LEAST_PROMINENCE_DB && this.#levels[at * BANDS + b]! > around + 1) return true;
      }
      return false;
    };
    let first = t;
    let last = t;
    while (first > t - AROUND / 2 && stands(first - 1)) first--;
    while (last < t + AROUND / 2 && stands(last + 1)) last++;
    return [first, last];
  }

  /** Levels around against the click's own, its shape over the bands, and how far it stands out (bench/train/clicks.py). */
  #describe(t: number): void {
    const levels = this.#levels;
    const most = (from: number, to: number, b: number): number => {
      let found = -Infinity;
      for (let at = t + from; at < t + to; at++) found = Math.max(found, levels[at * BANDS + b] ?? NOTHING_DB);
      return found;
    };
    let mean = 0;
    for (let b = 0; b < BANDS; b++) mean += (this.#centre[b] = most(-1, 2, b)) / BANDS;
    let at = 0;
    const put = (value: number, low: number, high: number): void => void (this.#features[at++] = Math.max(low, Math.min(high, value / 20)));
    for (const [from, to] of POOLS) for (let b = 0; b < BANDS; b++) put(most(from, to, b) - this.#centre[b]!, -2, 1);
    for (let b = 0; b < BANDS; b++) put(this.#centre[b]! - mean, -2, 2);
    for (let b = 0; b < BANDS; b++) put(this.#outDb(t, b), -1, 2);
  }

  #network(): number {
    const { first, firstBias, second, secondBias, last, lastBias } = clickWeights;
    const units = this.#units;
    for (let i = 0; i < units.length; i++) {
      let sum: number = firstBias[i]!;
      const row = first[i]!;
      for (let j = 0; j < INPUTS; j++) sum += row[j]! * this.#features[j]!;
      units[i] = Math.max(0, sum);
    }
    let z: number = lastBias;
    for (let i = 0; i < second.length; i++) {
      let sum: number = secondBias[i]!;
      const row = second[i]!;
      for (let j = 0; j < units.length; j++) sum += row[j]! * units[j]!;
      z += last[i]! * Math.max(0, sum);
    }
    return z;
  }
}
