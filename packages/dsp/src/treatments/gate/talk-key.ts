import type { ListRow } from '../definition.js';

/** A little over the closing level: what is raised to it does not let the gate close. */
const OVER = 1.05;

/**
 * What a gate that listens to talk is told: where nobody talks nothing, where somebody does at least the level at which
 * it stays open. So a soft end of a word does not close it, and a chair does not open it. Frames are those of the recording.
 */
export class TalkKey {
  readonly #quiet: Float64Array;
  /** Index of the span that ends next. */
  #next = 0;
  #at = 0;

  constructor(rows: readonly ListRow[], sampleRateHz: number) {
    const sorted = [...(rows as unknown as readonly { startSeconds: number; endSeconds: number }[])].sort(
      (a, b) => a.startSeconds - b.startSeconds,
    );
    this.#quiet = Float64Array.from(
      sorted.flatMap(({ startSeconds, endSeconds }) => [Math.round(startSeconds * sampleRateHz), Math.round(endSeconds * sampleRateHz)]),
    );
  }

  locate(frame: number): void {
    if (frame === this.#at) return;
    this.#at = frame;
    let low = 0;
    let high = this.#quiet.length / 2;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#quiet[2 * middle + 1]! > frame) high = middle;
      else low = middle + 1;
    }
    this.#next = low;
  }

  /** In place, keys[from … from + frames): the next frames of every channel, one after the other. Call `advance` after the last. */
  apply(keys: Float32Array, from: number, frames: number, closePower: number, awayGain: number): void {
    const least = Math.sqrt(closePower) * OVER;
    let next = this.#next;
    for (let n = 0; n < frames; n++) {
      const frame = this.#at + n;
      while (2 * next < this.#quiet.length && this.#quiet[2 * next + 1]! <= frame) next++;
      const x = keys[from + n]!;
      if (2 * next < this.#quiet.length && this.#quiet[2 * next]! <= frame) keys[from + n] *= awayGain;
      else if (x < least && x > -least) keys[from + n] = x < 0 ? -least : least;
    }
  }

  advance(frames: number): void {
    this.locate(this.#at + frames);
  }
}
