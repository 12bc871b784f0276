import { MediaError } from './errors.js';
import type { SoundBlock } from './sound-block.js';

/** So much of what was read stays, in seconds: one passage begins before the surroundings of the last one end. */
const KEPT_SECONDS = 5;

/** Reads spans of a stream that only goes forward, each no earlier than a few seconds before the end of the last one. */
export class ReadAhead {
  readonly #blocks: AsyncIterator<SoundBlock>;
  #held: { readonly startFrame: number; readonly channels: readonly Float32Array[]; readonly frames: number }[] = [];
  #at = 0;

  constructor(
    stream: AsyncIterable<SoundBlock>,
    private readonly channels: number,
    private readonly sampleRateHz: number,
    private readonly signal?: AbortSignal,
  ) {
    this.#blocks = stream[Symbol.asyncIterator]();
  }

  /** Frames [startFrame, endFrame); fewer where the stream ends before. @throws {MediaError} `cancelled` */
  async read(startFrame: number, endFrame: number): Promise<Float32Array[]> {
    const keepFrom = Math.min(startFrame, this.#at - KEPT_SECONDS * this.sampleRateHz);
    this.#held = this.#held.filter((block) => block.startFrame + block.frames > keepFrom);
    while (this.#at < endFrame) {
      if (this.signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
      const { value, done } = await this.#blocks.next();
      if (done) break;
      const { channels, frames } = value as SoundBlock;
      // A stream may use its blocks again.
      if (this.#at + frames > keepFrom)
        this.#held.push({ startFrame: this.#at, channels: channels.map((samples) => samples.slice(0, frames)), frames });
      this.#at += frames;
      // On the way to a passage far ahead nothing is needed of what lies before it.
      const needed = Math.min(startFrame, this.#at - KEPT_SECONDS * this.sampleRateHz);
      this.#held = this.#held.filter((block) => block.startFrame + block.frames > needed);
    }
    const length = Math.max(0, Math.min(endFrame, this.#at) - startFrame);
    return Array.from({ length: this.channels }, (_, c) => {
      const out = new Float32Array(length);
      for (const block of this.#held) {
        const from = Math.max(0, startFrame - block.startFrame);
        const to = Math.min(block.frames, endFrame - block.startFrame);
        if (from < to) out.set(block.channels[c]!.subarray(from, to), block.startFrame + from - startFrame);
      }
      return out;
    });
  }

  /** Lets go of what the stream holds open. */
  async close(): Promise<void> {
    await this.#blocks.return?.();
  }
}
