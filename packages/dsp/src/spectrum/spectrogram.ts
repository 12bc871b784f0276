import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import { hannWindow } from './window.js';

/** Lowest frequency of the logarithmic axis. */
export const LOWEST_HZ = 60;
/** Level range of a stored column: 0 is -130 dBFS or less, 255 is -2.5 dBFS or more, half a decibel a step. */
export const COLUMN_FLOOR_DBFS = -130;
export const COLUMN_STEP_DB = 0.5;

export type FrequencyAxis = 'log' | 'linear';

/** Frequency at the lower edge of row `row` (0 is the lowest) of an axis with `rows` rows up to half the sample rate. */
export function rowFrequency(row: number, rows: number, sampleRateHz: number, axis: FrequencyAxis): number {
  const top = sampleRateHz / 2;
  return axis === 'linear' ? (top * row) / rows : LOWEST_HZ * (top / LOWEST_HZ) ** (row / rows);
}

/** Turns frames of sound into spectrogram columns: level per row in half decibels, highest frequency first. */
export class ColumnMaker {
  readonly #fft: RealFft;
  readonly #window: Float32Array;
  readonly #edges: Float64Array;
  readonly #power: Float32Array;
  readonly #scale: number;

  constructor(
    kernels: KernelModule,
    sampleRateHz: number,
    readonly frameSize: number,
    readonly rows: number,
    axis: FrequencyAxis,
  ) {
    this.#fft = new RealFft(kernels, frameSize);
    this.#window = hannWindow(frameSize);
    this.#power = new Float32Array(frameSize / 2 + 1);
    // A full-scale sine reads 0 dBFS: |X| = N / 4 under a Hann window.
    this.#scale = (4 / frameSize) ** 2;
    const binHz = sampleRateHz / frameSize;
    this.#edges = Float64Array.from({ length: rows + 1 }, (_, row) => rowFrequency(row, rows, sampleRateHz, axis) / binHz);
  }

  /** Column of samples[from … from + frameSize), outside of which there is silence; written at to[at …]. */
  column(samples: Float32Array, from: number, to: Uint8Array, at: number): void {
    const { frame } = this.#fft;
    for (let n = 0; n < this.frameSize; n++) frame[n] = (samples[from + n] ?? 0) * this.#window[n]!;
    this.#fft.forward();
    const { re, im } = this.#fft;
    const power = this.#power;
    for (let k = 0; k < power.length; k++) power[k] = re[k]! * re[k]! + im[k]! * im[k]!;
    for (let row = 0; row < this.rows; row++) {
      const db = 10 * Math.log10(this.#rowPower(row) * this.#scale + 1e-20);
      to[at + this.rows - 1 - row] = Math.max(0, Math.min(255, Math.round((db - COLUMN_FLOOR_DBFS) / COLUMN_STEP_DB)));
    }
  }

  /** Greatest power among the row's bins; between bins, interpolated at the row's centre. */
  #rowPower(row: number): number {
    const power = this.#power;
    const low = this.#edges[row]!;
    const high = this.#edges[row + 1]!;
    const first = Math.ceil(low);
    if (first >= high) {
      const centre = (low + high) / 2;
      const k = Math.min(power.length - 2, Math.floor(centre));
      return power[k]! + (power[k + 1]! - power[k]!) * (centre - k);
    }
    let most = 0;
    for (let k = first; k < high && k < power.length; k++) if (power[k]! > most) most = power[k]!;
    return most;
  }
}

/**
 * Mean power spectrum of a stretch in dBFS by bin: Hann frames, half overlapping; a full-scale sine reads 0 at its bin.
 * @param quietShare of the frames, the quietest ones that count: 1 for all, 0.2 for what lies between the words.
 */
export function meanSpectrumDb(kernels: KernelModule, samples: Float32Array, size: number, quietShare = 1): Float32Array {
  const fft = new RealFft(kernels, size);
  const window = hannWindow(size);
  const sums = new Float64Array(size / 2 + 1);
  const starts = Array.from({ length: Math.max(1, Math.floor((samples.length - size) / (size / 2)) + 1) }, (_, i) => (i * size) / 2);
  for (const from of quietest(samples, starts, size, quietShare)) {
    for (let n = 0; n < size; n++) fft.frame[n] = (samples[from + n] ?? 0) * window[n]!;
    fft.forward();
    for (let k = 0; k < sums.length; k++) sums[k]! += fft.re[k]! * fft.re[k]! + fft.im[k]! * fft.im[k]!;
  }
  const count = Math.max(1, Math.ceil(starts.length * quietShare));
  return Float32Array.from(sums, (sum) => 10 * Math.log10((sum / count) * (4 / size) ** 2 + 1e-16));
}

function quietest(samples: Float32Array, starts: readonly number[], size: number, share: number): readonly number[] {
  if (share >= 1) return starts;
  const energy = (from: number): number => {
    let sum = 0;
    for (let n = from; n < Math.min(samples.length, from + size); n++) sum += samples[n]! * samples[n]!;
    return sum;
  };
  const byEnergy = starts.map((from) => ({ from, sum: energy(from) })).sort((a, b) => a.sum - b.sum);
  return byEnergy.slice(0, Math.max(1, Math.ceil(starts.length * share))).map(({ from }) => from);
}
