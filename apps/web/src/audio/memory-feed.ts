import type { MemoryNews, MemoryRequest } from '../passage/chain-memory.js';

/** A pass begins this long after the last change: a control that moves asks for none. */
const SETTLE_MS = 500;
/** Between two questions, while nobody waits for it: pictures and figures go first. */
const PAUSE_MS = 120;
/** And so long it is looked away while something heavier is at work. */
const BUSY_MS = 400;
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

export type AskMemories = (request: MemoryRequest, fromIndex: number) => Promise<MemoryNews>;

/** Brings the monitor what the chain remembers, as it is learnt: for one sound, chain and profile at a time. */
export class MemoryFeed {
  #request: MemoryRequest | null = null;
  #waiting: ReturnType<typeof setTimeout> | undefined;
  /** Counts what was begun; answers to what is older are thrown away. */
  #turn = 0;
  #knownFrames = Infinity;

  constructor(
    private readonly ask: AskMemories,
    private readonly post: (request: MemoryRequest, spacingFrames: number, held: MemoryNews['held']) => void,
    private readonly onProgress: () => void,
    private readonly onTrouble: (error: unknown) => void,
    /** Something plays that is not exact without it. */
    private readonly urgent: () => boolean,
    /** Something heavier must have the machine for itself. */
    private readonly busy: () => boolean,
  ) {}

  /** Up to which frame what the chain remembers is known; Infinity when all is, or nothing needs to be. */
  get knownFrames(): number {
    return this.#knownFrames;
  }

  /** What is to be remembered from now on; null when nothing needs to be. */
  follow(request: MemoryRequest | null): void {
    if (request?.key === this.#request?.key) return;
    this.#request = request;
    this.#turn++;
    this.#knownFrames = request ? 0 : Infinity;
    clearTimeout(this.#waiting);
    if (request) this.#waiting = setTimeout(() => void this.#feed(request), SETTLE_MS);
  }

  /** The monitor knows nothing (any more): it is told all. */
  again(): void {
    const request = this.#request;
    if (!request) return;
    this.#turn++;
    clearTimeout(this.#waiting);
    void this.#feed(request);
  }

  close(): void {
    this.#turn++;
    clearTimeout(this.#waiting);
  }

  async #feed(request: MemoryRequest): Promise<void> {
    const turn = this.#turn;
    let fromIndex = 1;
    try {
      for (;;) {
        const { spacingFrames, held, nextFrame, done } = await this.ask(request, fromIndex);
        if (turn !== this.#turn) return;
        fromIndex += held.length;
        this.#knownFrames = done ? Infinity : nextFrame;
        if (held.length > 0) this.post(request, spacingFrames, held);
        this.onProgress();
        if (done) return;
        while (this.busy() && turn === this.#turn) await pause(BUSY_MS);
        if (!this.urgent()) await pause(PAUSE_MS);
        if (turn !== this.#turn) return;
      }
    } catch (error) {
      // What plays goes on without; it is only less exact.
      if (turn === this.#turn) this.onTrouble(error);
    }
  }
}
