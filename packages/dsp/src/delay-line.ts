import { copyFrames } from './copy-frames.js';
import { MAX_BLOCK_FRAMES } from './processor.js';

/**
 * Delay of one channel as a straight piece of memory: the past `delayFrames` frames, then the block at hand.
 * After `push`, samples[n] is the frame `delayFrames` before frame n of the block; after use, `shift`.
 */
export class DelayLine {
  readonly samples: Float32Array;

  constructor(
    readonly delayFrames: number,
    maxBlockFrames = MAX_BLOCK_FRAMES,
  ) {
    this.samples = new Float32Array(delayFrames + maxBlockFrames);
  }

  /** Appends input[from … from + frames). */
  push(input: Float32Array, from: number, frames: number): void {
    copyFrames(input, from, this.samples, this.delayFrames, frames);
  }

  /** Drops the oldest `frames` frames. */
  shift(frames: number): void {
    this.samples.copyWithin(0, frames, frames + this.delayFrames);
  }

  reset(): void {
    this.samples.fill(0);
  }
}
