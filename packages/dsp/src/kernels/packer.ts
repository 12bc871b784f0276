import { copyFrames } from '../copy-frames.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
import { KernelInstance, type KernelModule } from './instance.js';

/** Samples as 24-bit whole numbers, little-endian and interleaved, rounded to the nearest step and held within full scale. */
export class Packer24 {
  readonly #input: Float32Array;
  readonly #packed: Uint8Array;
  readonly #pack: (frames: number) => void;

  constructor(
    module: KernelModule,
    private readonly channels: number,
  ) {
    const kernel = new KernelInstance(module, 'packSetUp', channels);
    this.#input = kernel.floats('packInput', MAX_BLOCK_FRAMES * channels);
    const bytes = kernel.bytes('packed', 3 * MAX_BLOCK_FRAMES * channels);
    this.#packed = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length);
    this.#pack = kernel.call('pack24');
  }

  /** Writes frames [from, from + frames) of every channel to target[at …): three bytes a sample. */
  pack(block: PlanarBlock, from: number, frames: number, target: Uint8Array, at: number): void {
    for (let done = 0; done < frames; done += MAX_BLOCK_FRAMES) {
      const count = Math.min(MAX_BLOCK_FRAMES, frames - done);
      for (let c = 0; c < this.channels; c++) copyFrames(block[c]!, from + done, this.#input, MAX_BLOCK_FRAMES * c, count);
      this.#pack(count);
      target.set(this.#packed.subarray(0, 3 * this.channels * count), at + 3 * this.channels * done);
    }
  }
}
