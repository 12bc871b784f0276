import { ABSOLUTE_GATE_LUFS, lufsToPower, powerToLufs, rangeOfPowers, type LoudnessMeter } from './loudness.js';

/** Loudness over time is told in steps of this; each value is of the window that ends there. */
export const COURSE_STEP_SECONDS = 0.1;
export const MOMENTARY_SECONDS = 0.4;
export const SHORT_TERM_SECONDS = 3;

/** Loudness over time, LUFS, ten values a second; -Infinity for silence. */
export interface LoudnessCourse {
  /** The first value ends 400 ms after the start. */
  readonly momentaryLufs: Float32Array;
  /** The first value ends 3 s after the start. */
  readonly shortTermLufs: Float32Array;
}

export const courseOf = ({ momentaryHistoryLufs, shortTermHistoryLufs }: LoudnessMeter): LoudnessCourse => ({
  momentaryLufs: Float32Array.from(momentaryHistoryLufs),
  shortTermLufs: Float32Array.from(shortTermHistoryLufs),
});

/** What of a course lies wholly within a span of seconds. */
export function courseWithin({ momentaryLufs, shortTermLufs }: LoudnessCourse, fromSeconds: number, toSeconds: number): LoudnessCourse {
  // A hair of tolerance: 3.4 / 0.1 is not 34.
  const first = Math.max(0, Math.ceil(fromSeconds / COURSE_STEP_SECONDS - 1e-6));
  const within = (values: Float32Array, windowSeconds: number): Float32Array => {
    const last = Math.floor((toSeconds - windowSeconds) / COURSE_STEP_SECONDS + 1e-6);
    return values.subarray(first, Math.max(first, last + 1));
  };
  return { momentaryLufs: within(momentaryLufs, MOMENTARY_SECONDS), shortTermLufs: within(shortTermLufs, SHORT_TERM_SECONDS) };
}

/**
 * Integrated loudness (BS.1770-5 eq. 5–7) from the first gating block to each of them, LUFS: what a meter that was started there
 * shows as time goes on. -Infinity until something is louder than -70 LUFS. Exact, in n log n: the blocks that pass the relative
 * gate are summed from a tree over their ranks.
 */
export function integratedSoFar(momentaryLufs: Float32Array): Float32Array {
  const powers = Float64Array.from(momentaryLufs, lufsToPower);
  const sorted = powers.slice().sort();
  const tree = new RankSums(sorted.length);
  const gate = lufsToPower(ABSOLUTE_GATE_LUFS);
  const found = new Float32Array(powers.length);
  powers.forEach((power, i) => {
    if (power >= gate) tree.add(firstAtLeast(sorted, power), power);
    if (tree.count === 0) return void (found[i] = -Infinity);
    const { sum, count } = tree.from(firstAtLeast(sorted, tree.sum / tree.count / 10));
    found[i] = powerToLufs(sum / count);
  });
  return found;
}

/** Loudness range (EBU Tech 3342) of a course, LU; null under 3 s or for silence. */
export const rangeOf = ({ shortTermLufs }: LoudnessCourse): number | null =>
  rangeOfPowers(Float64Array.from(shortTermLufs, lufsToPower)) ?? null;

/** First index of a sorted list whose value is at least so much; its length where there is none. */
function firstAtLeast(sorted: Float64Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle]! < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Sums and counts of values by their rank (Fenwick 1994): added one by one, summed from a rank upwards. */
class RankSums {
  readonly #sums: Float64Array;
  readonly #counts: Int32Array;
  sum = 0;
  count = 0;

  constructor(private readonly ranks: number) {
    this.#sums = new Float64Array(ranks + 1);
    this.#counts = new Int32Array(ranks + 1);
  }

  add(rank: number, value: number): void {
    this.sum += value;
    this.count++;
    // Counted from the top, so that a sum from a rank upwards needs no difference.
    for (let i = this.ranks - rank; i <= this.ranks; i += i & -i) {
      this.#sums[i]! += value;
      this.#counts[i]!++;
    }
  }

  from(rank: number): { readonly sum: number; readonly count: number } {
    let [sum, count] = [0, 0];
    for (let i = this.ranks - rank; i > 0; i -= i & -i) {
      sum += this.#sums[i]!;
      count += this.#counts[i]!;
    }
    return { sum, count };
  }
}
