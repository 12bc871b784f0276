import type { MemoryNews, MemoryPlace } from '../passage/chain-memory.js';

/** A pass begins this long after the last change: a control that moves asks for none. */
const SETTLE_MS = 500;
/** Between two questions, while nobody waits for it: pictures and figures go first. */
const PAUSE_MS = 120;
/** And so long it is looked away while something heavier is at work. */
const BUSY_MS = 400;
/** After a question that failed. */
const RETRY_MS = 3000;
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** Whoever learns what a chain remembers: asked again and again, from where it was told. */
export type AskMemories<R> = (request: R, from: MemoryPlace) => Promise<MemoryNews>;

/** Brings the monitor what the chain remembers, as it is learnt: for one sound, chain and profile at a time. */
export class MemoryFeed<R extends { readonly key: string }> {
  #request: R | null = null;
  #waiting: ReturnType<typeof setTimeout> | undefined;
  /** Counts what was begun; answers to what is older are thrown away. */
  #turn = 0;
  #knownFrames = Infinity;

  constructor(
    private readonly ask: AskMemories<R>,
    private readonly post: (request: R, spacingFrames: number, held: MemoryNews['held']) => void,
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
  follow(request: R | null): void {
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

  async #feed(request: R): Promise<void> {
    const turn = this.#turn;
    let from: MemoryPlace = { index: 1, preparedIndex: 1 };
    let told = false;
    while (turn === this.#turn) {
      const news = await this.ask(request, from).catch((error: unknown) => {
        // What plays goes on without, only less exact. Said once; the line may come back.
        if (turn === this.#turn && !told) this.onTrouble(error);
        told = true;
        return null;
      });
      if (turn !== this.#turn) return;
      if (!news) {
        await pause(RETRY_MS);
        continue;
      }
      told = false;
      const { spacingFrames, held, prepared } = news;
      from = { index: from.index + held.length, preparedIndex: from.preparedIndex + (prepared?.held.length ?? 0) };
      this.#knownFrames = news.done ? Infinity : news.nextFrame;
      if (held.length > 0) this.post(request, spacingFrames, held);
      this.onProgress();
      if (news.done) return;
      while (!news.passed && this.busy() && turn === this.#turn) await pause(BUSY_MS);
      if (!this.urgent()) await pause(PAUSE_MS);
    }
  }
}
