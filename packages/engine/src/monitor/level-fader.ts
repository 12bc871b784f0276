import { copyFrames, createBlock, type PlanarBlock } from '@euphonos/dsp';
import type { Levels } from '../arrangement/levels.js';
import type { Timeline } from './timeline.js';
import { QUANTUM_FRAMES } from './voice.js';

/** Applies the levels of clips to what the chain made, and goes over from old levels to new ones, so that a gain that is moved does not click. */
export class LevelFader {
  #before: Levels | null = null;
  #fade = 1;
  readonly #old: Float32Array[];

  constructor(
    channels: number,
    private readonly fadeStep: number,
    private levels: Levels | null,
  ) {
    this.#old = createBlock(channels, QUANTUM_FRAMES);
  }

  set(levels: Levels | null, gradually: boolean): void {
    this.#before = this.levels;
    this.levels = levels;
    this.#fade = gradually ? 0 : 1;
  }

  /** In place; `block` is what sounds from `position` of the timeline on, a quantum at most. */
  apply(block: PlanarBlock, timeline: Timeline, position: number, frames: number): void {
    if (this.#fade >= 1) return this.#level(this.levels, block, timeline, position, frames);
    for (let c = 0; c < block.length; c++) copyFrames(block[c]!, 0, this.#old[c]!, 0, frames);
    this.#level(this.#before, this.#old, timeline, position, frames);
    this.#level(this.levels, block, timeline, position, frames);
    for (let n = 0; n < frames; n++) {
      this.#fade = Math.min(1, this.#fade + this.fadeStep);
      for (let c = 0; c < block.length; c++) block[c]![n] = this.#old[c]![n]! + (block[c]![n]! - this.#old[c]![n]!) * this.#fade;
    }
  }

  /** Piece by piece, as a loop may jump within a quantum. */
  #level(levels: Levels | null, block: PlanarBlock, timeline: Timeline, position: number, frames: number): void {
    if (!levels) return;
    const { loop } = timeline;
    for (let at = 0; at < frames;) {
      const frame = timeline.frameAt(position + at);
      const count = loop && frame < loop.endFrame ? Math.min(frames - at, loop.endFrame - frame) : frames - at;
      levels.apply(block, at, frame, count);
      at += count;
    }
  }
}
