import type { PlanarBlock } from '@euphonos/dsp';

/** Where the monitor gets its samples from, at once or not at all. */
export interface SampleStore {
  /**
   * Copies frames [startFrame, startFrame + frames) to into[…][at …]. Outside of the recording there is
   * silence. False, and nothing copied, when some of them are not there yet.
   */
  read(startFrame: number, into: PlanarBlock, at: number, frames: number): boolean;
  /** Whether frames [startFrame, startFrame + frames) are there, as far as they lie in the recording. */
  covers(startFrame: number, frames: number): boolean;
}

export const CHUNK_FRAMES = 32768;

/** Samples in chunks of 32768 frames, brought and dropped from outside. */
export class ChunkStore implements SampleStore {
  readonly #chunks = new Map<number, PlanarBlock>();

  constructor(private readonly lengthFrames: number) {}

  put(index: number, channels: PlanarBlock): void {
    this.#chunks.set(index, channels);
  }

  drop(index: number): void {
    this.#chunks.delete(index);
  }

  clear(): void {
    this.#chunks.clear();
  }

  covers(startFrame: number, frames: number): boolean {
    const first = Math.floor(Math.max(0, startFrame) / CHUNK_FRAMES);
    const last = Math.floor((Math.min(this.lengthFrames, startFrame + frames) - 1) / CHUNK_FRAMES);
    for (let index = first; index <= last; index++) if (!this.#chunks.has(index)) return false;
    return true;
  }

  read(startFrame: number, into: PlanarBlock, at: number, frames: number): boolean {
    if (!this.covers(startFrame, frames)) return false;
    for (let done = 0; done < frames;) {
      const frame = startFrame + done;
      const inChunk = ((frame % CHUNK_FRAMES) + CHUNK_FRAMES) % CHUNK_FRAMES;
      const count = Math.min(frames - done, CHUNK_FRAMES - inChunk);
      const outside = frame < 0 || frame >= this.lengthFrames;
      const chunk = outside ? undefined : this.#chunks.get(Math.floor(frame / CHUNK_FRAMES))!;
      const last = Math.min(count, this.lengthFrames - frame);
      for (let c = 0; c < into.length; c++) {
        const target = into[c]!;
        const from = chunk?.[c];
        for (let n = 0; n < count; n++) target[at + done + n] = from && n < last ? from[inChunk + n]! : 0;
      }
      done += count;
    }
    return true;
  }
}
