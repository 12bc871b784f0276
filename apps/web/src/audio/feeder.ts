import { CHUNK_FRAMES, type Span } from '@euphonos/engine';

/** Chunks kept ahead of the playhead: 6 s at 48 kHz and more, so that a slow answer is not heard. */
const AHEAD_CHUNKS = 10;
const BEHIND_CHUNKS = 2;
/** A loop up to this long stays in the worklet as a whole. */
const LOOP_CHUNKS = 90;
const RETRY_MS = 700;

/** Keeps the worklet supplied with the samples around the playhead, and with the loop. */
export class Feeder {
  readonly #held = new Set<number>();
  readonly #coming = new Set<number>();
  #wanted: number[] = [];
  /** Counts the times that all was forgotten: what was asked for before is not held when it comes. */
  #generation = 0;

  constructor(
    private readonly lengthFrames: number,
    private readonly put: (index: number, channels: Float32Array[]) => void,
    private readonly drop: (index: number) => void,
    private readonly onTrouble: (error: unknown) => void,
    private readonly fetch: (index: number) => Promise<Float32Array[]>,
  ) {}

  /** The playhead is here; the loop, if any, is this. With `letGo`, what neither needs any more is dropped. */
  moveTo(frame: number, loop: Span | null, letGo: boolean): void {
    const wanted = new Set<number>();
    const add = (from: number, count: number): void => {
      for (let i = Math.max(0, from); i < Math.min(Math.ceil(this.lengthFrames / CHUNK_FRAMES), from + count); i++) wanted.add(i);
    };
    const here = Math.floor(frame / CHUNK_FRAMES);
    add(here, 2);
    if (loop)
      add(
        Math.floor(loop.startFrame / CHUNK_FRAMES) - 1,
        Math.min(LOOP_CHUNKS, Math.ceil((loop.endFrame - loop.startFrame) / CHUNK_FRAMES) + 3),
      );
    add(here, AHEAD_CHUNKS);
    add(here - BEHIND_CHUNKS, BEHIND_CHUNKS);
    this.#wanted = [...wanted];
    for (const index of letGo ? this.#held : [])
      if (!wanted.has(index)) {
        this.#held.delete(index);
        this.drop(index);
      }
    this.#fetchNext();
  }

  /** Fetches nothing more. */
  stop(): void {
    this.#generation++;
    this.#wanted = [];
  }

  /** Nobody holds anything any more: the next moveTo fetches all of it again. */
  forget(): void {
    this.#generation++;
    this.#held.clear();
  }

  #fetchNext(): void {
    while (this.#coming.size < 3) {
      const index = this.#wanted.find((i) => !this.#held.has(i) && !this.#coming.has(i));
      if (index === undefined) return;
      this.#coming.add(index);
      const generation = this.#generation;
      this.fetch(index).then(
        (channels) => {
          this.#coming.delete(index);
          if (generation === this.#generation) {
            this.#held.add(index);
            this.put(index, channels);
          }
          this.#fetchNext();
        },
        (error: unknown) => {
          this.onTrouble(error);
          setTimeout(() => {
            this.#coming.delete(index);
            this.#fetchNext();
          }, RETRY_MS);
        },
      );
    }
  }
}
