import type { SpanSeconds } from '../../span-seconds.js';

/** How a bed goes down and comes back, frames. */
export interface CurveTimes {
  /** It is down so long before a word. */
  readonly aheadFrames: number;
  readonly attackFrames: number;
  /** It stays down so long after one. */
  readonly holdFrames: number;
  readonly releaseFrames: number;
}

/** Frames in which it is all the way down. */
interface Down {
  readonly from: number;
  readonly to: number;
}

/**
 * Where a bed is down, 0 … 1 of the depth, over frames of the session: raised-cosine ways down and back, each of its whole length, so that
 * of what comes back slowly and is called down again the lower counts.
 */
export class SpeechCurve {
  readonly #downs: readonly Down[];

  /** @param talk in any order; what overlaps is one. */
  constructor(
    talk: readonly SpanSeconds[],
    private readonly sampleRateHz: number,
    private readonly times: CurveTimes,
  ) {
    const { aheadFrames, attackFrames, holdFrames } = times;
    const downs: Down[] = [];
    for (const { startSeconds, endSeconds } of [...talk].sort((a, b) => a.startSeconds - b.startSeconds)) {
      const from = Math.round(startSeconds * this.sampleRateHz) - aheadFrames;
      const to = Math.round(endSeconds * this.sampleRateHz) + holdFrames;
      const last = downs[downs.length - 1];
      // It would have to go down again before it could come back.
      if (last && from - attackFrames <= last.to) downs[downs.length - 1] = { from: last.from, to: Math.max(last.to, to) };
      else downs.push({ from, to });
    }
    this.#downs = downs;
  }

  get stretches(): readonly Down[] {
    return this.#downs;
  }

  /** Index of the first stretch that has not ended at a frame. */
  after(frame: number): number {
    let low = 0;
    let high = this.#downs.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#downs[middle]!.to > frame) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  /** @param next index of the first stretch that has not ended, from `after` */
  at(frame: number, next = this.after(frame)): number {
    const { attackFrames, releaseFrames } = this.times;
    const before = this.#downs[next - 1];
    const coming = this.#downs[next];
    const back = before ? eased(1 - (frame - before.to + 0.5) / Math.max(1, releaseFrames)) : 0;
    const down = coming ? eased(1 - (coming.from - frame - 0.5) / Math.max(1, attackFrames)) : 0;
    return Math.max(back, down);
  }

  /** How many frames from one on nothing is lowered at all. */
  freeFrames(frame: number, next = this.after(frame)): number {
    const before = this.#downs[next - 1];
    const coming = this.#downs[next];
    if (before && frame < before.to + this.times.releaseFrames) return 0;
    return coming ? Math.max(0, coming.from - this.times.attackFrames - frame - 1) : Infinity;
  }
}

const eased = (x: number): number => (x <= 0 ? 0 : x >= 1 ? 1 : 0.5 - 0.5 * Math.cos(Math.PI * x));
