import { copyFrames } from '@euphonos/dsp';
import { BLOCK_FRAMES } from './raw-file.js';
import type { SoundBlock } from './sound-block.js';

/** Gathers small blocks into large ones: fewer, longer writes. Blocks are used again once they are written. */
export class Gatherer {
  readonly #blocks: SoundBlock[] = [];
  readonly #free: Float32Array[][] = [];
  #channels: Float32Array[] = [];
  #fill = 0;

  constructor(private readonly width: number) {}

  /** Appends `frames` frames of a[c], less those of b[c] when given. */
  add(a: readonly Float32Array[], frames: number, b?: readonly Float32Array[]): void {
    for (let from = 0; from < frames;) {
      if (this.#fill === 0) this.#channels = this.#free.pop() ?? Array.from({ length: this.width }, () => new Float32Array(BLOCK_FRAMES));
      const count = Math.min(frames - from, BLOCK_FRAMES - this.#fill);
      for (let c = 0; c < this.width; c++) {
        const target = this.#channels[c]!;
        const plus = a[c]!;
        const minus = b?.[c];
        const at = this.#fill;
        if (minus) for (let n = 0; n < count; n++) target[at + n] = plus[from + n]! - minus[from + n]!;
        else copyFrames(plus, from, target, this.#fill, count);
      }
      from += count;
      this.#fill += count;
      if (this.#fill === BLOCK_FRAMES) this.close();
    }
  }

  /** The next block begins with what is added next. */
  close(): void {
    if (this.#fill > 0) this.#blocks.push({ channels: this.#channels, frames: this.#fill });
    this.#fill = 0;
  }

  /** Hands on the full blocks so far; with `all`, the last, shorter one too. */
  async handOn(take: (block: SoundBlock) => void | Promise<void>, all = false): Promise<void> {
    if (all) this.close();
    for (const block of this.#blocks.splice(0)) {
      await take(block);
      this.#free.push(block.channels as Float32Array[]);
    }
  }
}
