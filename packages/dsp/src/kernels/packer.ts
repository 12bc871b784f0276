import { copyFrames } from '../copy-frames.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
import { KernelInstance, type KernelModule } from './instance.js';

export interface Packing {
  readonly bits: 16 | 24;
  /** Noise of two steps, triangular, before the rounding, wherever a sample does not lie on a step. The same every time. */
  readonly dither: boolean;
}

/** Samples as whole numbers of 16 or 24 bits, little-endian and interleaved, rounded to the nearest step and held within full scale. */
export class Packer {
  /** Bytes of a sample. */
  readonly width: 2 | 3;
  readonly #input: Float32Array;
  readonly #packed: Uint8Array;
  readonly #pack: (frames: number) => void;

  constructor(
    module: KernelModule,
    private readonly channels: number,
    { bits, dither }: Packing,
  ) {
    this.width = bits === 16 ? 2 : 3;
    const kernel = new KernelInstance(module, 'packSetUp', channels);
    this.#input = kernel.floats('packInput', MAX_BLOCK_FRAMES * channels);
    const bytes = kernel.bytes('packed', this.width * MAX_BLOCK_FRAMES * channels);
    this.#packed = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length);
    const dithered = kernel.call<(frames: number, bits: number) => void>('packDithered');
    this.#pack = dither ? (frames) => dithered(frames, bits) : kernel.call(bits === 16 ? 'pack16' : 'pack24');
  }

  /** Writes frames [from, from + frames) of every channel to target[at …). */
  pack(block: PlanarBlock, from: number, frames: number, target: Uint8Array, at: number): void {
    for (let done = 0; done < frames; done += MAX_BLOCK_FRAMES) {
      const count = Math.min(MAX_BLOCK_FRAMES, frames - done);
      for (let c = 0; c < this.channels; c++) copyFrames(block[c]!, from + done, this.#input, MAX_BLOCK_FRAMES * c, count);
      this.#pack(count);
      target.set(this.#packed.subarray(0, this.width * this.channels * count), at + this.width * this.channels * done);
    }
  }
}
