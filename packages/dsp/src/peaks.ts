import type { PlanarBlock } from './processor.js';

/** Frames in one bucket of the finest level; each further level holds four buckets in one. */
export const BUCKET_FRAMES = 256;
export const LEVEL_RATIO = 4;
/** Values of a bucket: least, greatest and mean-square sample value. */
export const BUCKET_VALUES = 3;

/** Number of levels for a length in frames: up to the first that has 64 buckets or fewer. */
export function peakLevelCount(frames: number): number {
  let levels = 1;
  while (bucketCount(frames, levels - 1) > 64) levels++;
  return levels;
}

/** Buckets of a level (0 is the finest). */
export const bucketCount = (frames: number, level: number): number => Math.ceil(frames / (BUCKET_FRAMES * LEVEL_RATIO ** level));

/** Where a level starts in the pyramid, counted in buckets: the coarsest level comes first. */
export function levelOffset(frames: number, level: number): number {
  let offset = 0;
  for (let above = peakLevelCount(frames) - 1; above > level; above--) offset += bucketCount(frames, above);
  return offset;
}

/**
 * Peaks pyramid of one stream, channels merged (least of all, greatest of all, mean of squares). Coarsest
 * level first, so that the whole recording can be drawn from the first few kilobytes.
 */
export class PeaksBuilder {
  readonly #finest: number[] = [];
  #fill = 0;
  #low = Infinity;
  #high = -Infinity;
  #squares = 0;
  #frames = 0;

  process(block: PlanarBlock, frames: number): void {
    for (let n = 0; n < frames; n++) {
      for (let c = 0; c < block.length; c++) {
        const x = block[c]![n]!;
        if (x < this.#low) this.#low = x;
        if (x > this.#high) this.#high = x;
        this.#squares += (x * x) / block.length;
      }
      if (++this.#fill === BUCKET_FRAMES) this.#endBucket();
    }
    this.#frames += frames;
  }

  #endBucket(): void {
    this.#finest.push(this.#low, this.#high, this.#squares / this.#fill);
    this.#fill = 0;
    this.#low = Infinity;
    this.#high = -Infinity;
    this.#squares = 0;
  }

  /** The pyramid. Call once, at the end of the stream. */
  finish(): Float32Array {
    if (this.#fill > 0) this.#endBucket();
    const levels: Float32Array[] = [Float32Array.from(this.#finest)];
    while (levels.length < peakLevelCount(this.#frames)) levels.push(coarser(levels[levels.length - 1]!));
    const pyramid = new Float32Array(levels.reduce((sum, level) => sum + level.length, 0));
    let at = 0;
    for (const level of levels.reverse()) {
      pyramid.set(level, at);
      at += level.length;
    }
    return pyramid;
  }
}

function coarser(level: Float32Array): Float32Array {
  const buckets = level.length / BUCKET_VALUES;
  const result = new Float32Array(Math.ceil(buckets / LEVEL_RATIO) * BUCKET_VALUES);
  for (let i = 0; i < result.length / BUCKET_VALUES; i++) {
    const from = i * LEVEL_RATIO;
    const to = Math.min(buckets, from + LEVEL_RATIO);
    let low = Infinity,
      high = -Infinity,
      squares = 0;
    for (let j = from; j < to; j++) {
      low = Math.min(low, level[j * BUCKET_VALUES]!);
      high = Math.max(high, level[j * BUCKET_VALUES + 1]!);
      squares += level[j * BUCKET_VALUES + 2]!;
    }
    result.set([low, high, squares / (to - from)], i * BUCKET_VALUES);
  }
  return result;
}
