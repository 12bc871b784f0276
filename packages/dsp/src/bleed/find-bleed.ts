import type { SpanSeconds } from '../span-seconds.js';
import { quantile, runs } from '../survey/growing.js';
import { withoutBleed } from '../survey/talk.js';
import type { BleedListener } from './bleed-listener.js';

/** A microphone leads where it stands so far above another, each against the level of its own talk. Common practice, no source. */
const LEADS_DB = 10;
/** Between the two, both talk, unless one wave is heard in both: then the one that it reaches first has it. */
const SAME_WAVE = 0.7;
const ARRIVAL_SECONDS = 0.04;
const LATEST_SECONDS = 0.012;
/** Nobody talks so far below the level of talk. */
const TALK_BELOW_DB = 30;
/** Levels are evened out over this to either side: single steps of two voices jump. */
const EVEN_STEPS = 2;
/** A word is left as it is from so long before it to so long after: its first consonant and its end are softer than the other's voice. */
const BEFORE_SECONDS = 0.15;
const AFTER_SECONDS = 0.22;
/** What is shorter is no word, and no bleed. */
const SHORTEST_WORD_SECONDS = 0.05;
const SHORTEST_BLEED_SECONDS = 0.25;
/** Between the other's words it stays down. */
const HOLD_SECONDS = 0.8;

const NOBODY = 0,
  OWN = 1,
  OTHER = 2;

/**
 * Where each microphone hears somebody else only: another one leads by level, or by arrival where the levels do not tell, and nobody talks into
 * this one. Talk over each other is left alone. Recordings must be of one scene, on one time.
 */
export function findBleed(listeners: readonly BleedListener[]): SpanSeconds[][] {
  if (listeners.length < 2) return listeners.map(() => []);
  const heard = listeners.map((listener) => listener.heard());
  const own = withoutBleed(heard);
  const talkDb = listeners.map(({ levels, stepFrames, sampleRateHz }, i) => {
    const { frameSeconds } = heard[i]!.features;
    const talking = levels.filter((_, step) => own[i]!.isTalk[Math.round((step * stepFrames) / sampleRateHz / frameSeconds)] === 1);
    return talking.length === 0 ? null : quantile(talking, 0.7);
  });
  const even = listeners.map(({ levels }) => evened(levels));
  const floors = listeners.map(({ levels }) => quantile(levels, 0.05));
  return listeners.map((listener, i) => {
    const steps = even[i]!.length;
    const mine = talkDb[i];
    const states = new Uint8Array(steps);
    // A microphone that nobody talks into is a room's: it has no words of its own to keep, but no owner either.
    if (mine === null || mine === undefined) return [];
    for (let step = 0; step < steps; step++) states[step] = stateAt(step, i);
    return spansOf(states, listener.stepFrames / listener.sampleRateHz);

    function stateAt(step: number, at: number): number {
      const level = even[at]![step]!;
      let state = level > mine! - TALK_BELOW_DB && level > floors[at]! + 6 ? OWN : NOBODY;
      for (const [o, theirs] of talkDb.entries()) {
        if (o === at || theirs === null || !(even[o]![step]! > theirs - TALK_BELOW_DB)) continue;
        const lead = even[o]![step]! - theirs - (level - mine!);
        if (lead > LEADS_DB) return OTHER;
        if (lead > -LEADS_DB && state === OWN && reachesFirst(listeners[o]!, listener, step)) state = OTHER;
      }
      return state;
    }
  });
}

function evened(levels: Float32Array): Float32Array {
  const powers = levels.map((db) => 10 ** (db / 10));
  return levels.map((_, i) => {
    let sum = 0;
    let count = 0;
    for (let k = Math.max(0, i - EVEN_STEPS); k <= Math.min(levels.length - 1, i + EVEN_STEPS); k++, count++) sum += powers[k]!;
    return 10 * Math.log10(sum / count + 1e-12);
  });
}

/** Whether one wave is heard in both, and by `first` before `second`: normalised cross-correlation around a step. */
function reachesFirst(first: BleedListener, second: BleedListener, step: number): boolean {
  const rate = first.slowRateHz;
  const [a, b] = [first.slow, second.slow];
  const length = Math.round(ARRIVAL_SECONDS * rate);
  const latest = Math.round(LATEST_SECONDS * rate);
  const start = Math.round(((step * first.stepFrames) / first.sampleRateHz) * rate) - (length >> 1);
  if (start - latest < 0 || start + length + latest > Math.min(a.length, b.length)) return false;
  let best = 0;
  let bestLag = 0;
  for (let lag = -latest; lag <= latest; lag++) {
    let product = 0;
    let powerA = 1;
    let powerB = 1;
    for (let n = start; n < start + length; n++) {
      const [x, y] = [a[n]!, b[n + lag]!];
      product += x * y;
      powerA += x * x;
      powerB += y * y;
    }
    const like = Math.abs(product) / Math.sqrt(powerA * powerB);
    if (like > best) [best, bestLag] = [like, lag];
  }
  // It is later in `second`: positive lags.
  return best > SAME_WAVE && bestLag > 0;
}

/** Stretches of bleed, with the holds and margins that words need. */
function spansOf(states: Uint8Array, stepSeconds: number): SpanSeconds[] {
  const steps = (seconds: number): number => Math.round(seconds / stepSeconds);
  const words = new Uint8Array(states.length);
  for (const [from, to] of runs(Array.from(states, (state) => state === OWN)))
    if (to - from >= steps(SHORTEST_WORD_SECONDS))
      words.fill(1, Math.max(0, from - steps(BEFORE_SECONDS)), Math.min(words.length, to + steps(AFTER_SECONDS)));
  const bleed = Uint8Array.from(states, (state, i) => (state === OTHER && words[i] === 0 ? 1 : 0));
  for (const [from, to] of runs(Array.from(bleed, (flag) => flag === 0)))
    if (from > 0 && to < bleed.length && to - from <= steps(HOLD_SECONDS) && !words.subarray(from, to).includes(1)) bleed.fill(1, from, to);
  return runs(bleed)
    .filter(([from, to]) => to - from >= steps(SHORTEST_BLEED_SECONDS))
    .map(([from, to]) => ({
      startSeconds: Math.round(from * stepSeconds * 1000) / 1000,
      endSeconds: Math.round(to * stepSeconds * 1000) / 1000,
    }));
}
