import type { EndTake, StartTake } from '@euphonos/contracts';

/** How takes reach the server. Rejects with `{ code, message, data }` for what was answered, and with a plain Error when nothing was. */
export interface TakeLine {
  start(take: StartTake): Promise<void>;
  /** @returns how many frames are there now */
  sound(id: string, fromFrame: number, samples: Float32Array): Promise<number>;
  end(id: string, end: EndTake): Promise<void>;
  /** Throws away what is there of it. */
  drop(id: string): Promise<void>;
}

interface Answered {
  readonly status?: number;
  readonly code?: string;
  readonly message?: string;
  readonly data?: { readonly frames?: number };
}

const RETRY_MS = [300, 1000, 2000, 4000, 8000] as const;
/** What one request brings. */
const MOST_SAMPLES = 1 << 21;

/** Where the samples of a take are read from that are not on the server yet. */
export interface TakeSource {
  readonly take: StartTake;
  /** Frames that there are. */
  readonly frames: number;
  readonly read: (fromFrame: number, frames: number) => Float32Array;
  /** Once it was ended. */
  readonly end: EndTake | null;
}

/** Brings one take to the server, as it grows, however often the line breaks. */
export class TakeSender {
  sentFrames = 0;
  problem: string | null = null;
  done = false;
  #busy = false;
  #woken = false;
  #started = false;
  #tries = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly source: () => TakeSource,
    private readonly line: TakeLine,
    private readonly onChange: () => void,
  ) {}

  /** There is more to send, or it was ended. */
  wake(): void {
    // Whoever calls while it is at work may have brought what it does not look at any more.
    this.#woken = this.#busy;
    if (this.#busy || this.done || this.#timer !== undefined) return;
    this.#busy = true;
    void this.#go().finally(() => {
      this.#busy = false;
      this.onChange();
      if (this.#woken) this.wake();
    });
  }

  close(): void {
    clearTimeout(this.#timer);
    this.done = true;
  }

  async #go(): Promise<void> {
    try {
      if (!this.#started) await this.line.start(this.source().take);
      this.#started = true;
      while (!this.done) {
        const { take, frames, read, end } = this.source();
        if (this.sentFrames < frames) {
          const part = read(this.sentFrames, Math.min(frames - this.sentFrames, Math.floor(MOST_SAMPLES / take.channels)));
          this.sentFrames = await this.line.sound(take.id, this.sentFrames, part);
        } else if (end) {
          // Nothing came between the two keys: there is no take.
          await (end.frames === 0 ? this.line.drop(take.id) : this.line.end(take.id, end));
          this.done = true;
        } else break;
        this.#tries = 0;
        this.problem = null;
        this.onChange();
      }
    } catch (error) {
      this.#failed(error as Answered);
    }
  }

  #failed({ code, message, data, status }: Answered): void {
    // It has less than was thought, or more: it goes on from there.
    if ((code === 'take-gap' || code === 'take-incomplete') && data?.frames !== undefined) {
      this.sentFrames = data.frames;
      return this.#again(0);
    }
    if (code === 'take-ended') {
      this.done = true;
      return;
    }
    // It was begun on a server that does not know of it any more.
    if (status === 404) {
      this.#started = false;
      this.sentFrames = 0;
    }
    this.problem = message ?? 'The server cannot be reached.';
    this.#again(RETRY_MS[Math.min(this.#tries++, RETRY_MS.length - 1)]!);
  }

  #again(ms: number): void {
    this.#timer = setTimeout(() => {
      this.#timer = undefined;
      this.wake();
    }, ms);
  }
}
