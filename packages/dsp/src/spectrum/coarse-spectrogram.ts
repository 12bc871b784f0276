import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { ColumnMaker } from './spectrogram.js';

/** Rows and frames a column of the coarse spectrogram (logarithmic axis, half decibels from -130 dBFS). */
export const COARSE_ROWS = 128;
export const COARSE_HOP_FRAMES = 8192;
const COARSE_FRAME_SIZE = 4096;

/** Collects the columns of the coarse spectrogram, one every 8192 frames, of all channels mixed. */
export class CoarseSpectrogram {
  readonly #columns: Uint8Array[] = [];
  readonly #maker: ColumnMaker;
  readonly #frame = new Float32Array(COARSE_FRAME_SIZE);
  #at = 0;

  constructor(kernels: KernelModule, sampleRateHz: number) {
    this.#maker = new ColumnMaker(kernels, sampleRateHz, COARSE_FRAME_SIZE, COARSE_ROWS, 'log');
  }

  process(channels: PlanarBlock, frames: number): void {
    for (let n = 0; n < frames; n++) {
      const at = this.#at++ % COARSE_HOP_FRAMES;
      if (at < COARSE_FRAME_SIZE) {
        let sum = 0;
        for (const samples of channels) sum += samples[n]!;
        this.#frame[at] = sum / channels.length;
        if (at === COARSE_FRAME_SIZE - 1) this.#close();
      }
    }
  }

  #close(): void {
    const column = new Uint8Array(COARSE_ROWS);
    this.#maker.column(this.#frame, 0, column, 0);
    this.#columns.push(column);
  }

  /** Column after column, each from the highest row down. */
  finish(): Uint8Array {
    const all = new Uint8Array(this.#columns.length * COARSE_ROWS);
    this.#columns.forEach((column, i) => all.set(column, i * COARSE_ROWS));
    return all;
  }
}
