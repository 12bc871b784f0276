import type { KernelModule } from '../kernels/instance.js';
import { likeness } from '../noise/room-tone.js';
import { beatOf, bedFeatures, onsetsOf, type BedFeatures } from './bed-features.js';

/** Two places of a bed that go on alike: whoever leaves at one of them may go on at the other. */
export interface BedJoin {
  /** The earlier and the later place, frames. */
  readonly earlyFrame: number;
  readonly lateFrame: number;
  /** Mean difference of the bands around both, dB. */
  readonly differenceDb: number;
  /** Correlation of the waves where they are joined, -1 … 1. */
  readonly correlation: number;
}

/** So much on either side of a join is compared, nearer counting for more. */
const AROUND_SECONDS = 1.5;
/** Off the beat by a whole half counts as so much less alike, dB, where there is a beat. */
const OFF_BEAT_DB = 6;
/** A loop is no shorter: a shorter one is heard as one. */
const SHORTEST_LOOP_SECONDS = 3;
const MOST_ONSETS = 400;
const MOST_JOINS = 80;
/** Beginnings of a beat are joined so long before it: what is new covers what is joined. */
const BEFORE_BEAT_SECONDS = 0.02;
/** The waves are brought in step within this, and compared over that. */
const STEP_SECONDS = 0.03;
const WAVE_SECONDS = 0.08;
/** Joins nearer than this to a better one are the same. */
const SAME_SECONDS = 0.3;

/**
 * Places of a bed at which it goes on alike, by self-similarity of its spectrum around its beats (after Foote 1999, with levels in bands in
 * place of cepstra), then to the sample by the waves themselves.
 * @returns the most alike first; none where the bed is too short
 */
export function findJoins(kernels: KernelModule, mono: Float32Array, sampleRateHz: number): BedJoin[] {
  const features = bedFeatures(kernels, mono, sampleRateHz);
  const hops = (seconds: number): number => Math.round((seconds * sampleRateHz) / features.hopFrames);
  const onsets = onsetsOf(features, sampleRateHz, MOST_ONSETS);
  const beatHops = beatOf(features, sampleRateHz);
  const pairs: { early: number; late: number; db: number }[] = [];
  for (const [i, early] of onsets.entries())
    for (let j = i + 1; j < onsets.length; j++) {
      const late = onsets[j]!;
      if (late - early < hops(SHORTEST_LOOP_SECONDS)) continue;
      const beats = beatHops === null ? 0 : (late - early) / beatHops;
      const off = 2 * OFF_BEAT_DB * Math.abs(beats - Math.round(beats));
      pairs.push({ early, late, db: off + differenceDb(features, early, late, hops(AROUND_SECONDS)) });
    }
  pairs.sort((a, b) => a.db - b.db);
  const kept: typeof pairs = [];
  for (const pair of pairs) {
    const near = (other: (typeof pairs)[number]): boolean =>
      Math.abs(other.early - pair.early) < hops(SAME_SECONDS) && Math.abs(other.late - pair.late) < hops(SAME_SECONDS);
    if (kept.length < MOST_JOINS && !kept.some(near)) kept.push(pair);
  }
  return kept.map(({ early, late, db }) => inStep(mono, sampleRateHz, early * features.hopFrames, late * features.hopFrames, db));
}

/** Mean difference around two hops, weighted by a triangle. */
function differenceDb({ levels, count }: BedFeatures, a: number, b: number, around: number): number {
  const bands = levels.length / count;
  let sum = 0;
  let weights = 0;
  for (let k = -around; k <= around; k++) {
    const [x, y] = [a + k, b + k];
    if (x < 0 || y < 0 || x >= count || y >= count) continue;
    const weight = 1 - Math.abs(k) / (around + 1);
    let difference = 0;
    for (let band = 0; band < bands; band++) {
      const apart = levels[x * bands + band]! - levels[y * bands + band]!;
      difference += apart < 0 ? -apart : apart;
    }
    sum += (weight * difference) / bands;
    weights += weight;
  }
  // What has little around it to compare is no match.
  return weights < around / 2 ? Infinity : sum / weights;
}

/** Moves the later place so that the waves meet, and both a little before the beat. */
function inStep(mono: Float32Array, sampleRateHz: number, early: number, late: number, db: number): BedJoin {
  const frames = Math.round(WAVE_SECONDS * sampleRateHz);
  const before = Math.round(BEFORE_BEAT_SECONDS * sampleRateHz);
  const reach = Math.round(STEP_SECONDS * sampleRateHz);
  const from = Math.max(0, early - before);
  let best = { at: Math.max(0, late - before), like: -1 };
  const start = Math.max(0, from - (frames >> 1));
  const compare = (at: number): void => {
    const begin = at - (from - start);
    if (begin < 0 || begin + frames > mono.length || start + frames > mono.length) return;
    const like = likeness(mono, start, mono, begin, frames);
    if (like > best.like) best = { at, like };
  };
  // Coarse, then every frame around the best.
  for (let shift = -reach; shift <= reach; shift += 8) compare(late - before + shift);
  const coarse = best.at;
  for (let shift = -8; shift <= 8; shift++) compare(coarse + shift);
  return {
    earlyFrame: from,
    lateFrame: best.at,
    differenceDb: Math.round(100 * db) / 100,
    correlation: Math.round(100 * Math.max(-1, best.like)) / 100,
  };
}
