import type { BedJoin } from './find-joins.js';

/** A stretch of a bed, frames of the recording. */
export interface BedPiece {
  readonly startFrame: number;
  readonly endFrame: number;
}

/** How a bed comes to a length: pieces one after the other, and the join between each and the next. */
export interface BedPlan {
  readonly pieces: readonly BedPiece[];
  /** One fewer than pieces: index into the joins that were given. */
  readonly joins: readonly number[];
  /** It is faded out over so many frames at the end; 0 where it ends as it was made. */
  readonly fadeFrames: number;
  readonly frames: number;
}

/** A join that was used already counts as so much less alike, dB: a loop that is heard over and over is known. */
const AGAIN_DB = 1.5;
/** No piece is shorter. */
const SHORTEST_SECONDS = 2;
/** As long as was asked for, give or take so much, if it can end as it was made. */
const NEARLY_SECONDS = 0.75;
/** Its own end counts as so much more alike than a fade. */
const OWN_END_DB = 2;
const FADE_SECONDS = 4;

/**
 * Extends a bed to a length, or shortens it. Longer: again and again from a later place back to an earlier one that is like it; shorter: from an
 * earlier one on to a later one. It ends with its own end where that can be had, else it is faded.
 * @param without joins that are not to be used
 */
export function planBed(
  joins: readonly BedJoin[],
  bedFrames: number,
  wishedFrames: number,
  sampleRateHz: number,
  without: ReadonlySet<number> = new Set(),
): BedPlan {
  const usable = joins
    .map((join, index) => ({ ...join, index }))
    .filter(({ index, differenceDb }) => !without.has(index) && differenceDb < Infinity);
  const nearly = NEARLY_SECONDS * sampleRateHz;
  if (Math.abs(wishedFrames - bedFrames) <= nearly)
    return { pieces: [{ startFrame: 0, endFrame: bedFrames }], joins: [], fadeFrames: 0, frames: bedFrames };
  if (wishedFrames < bedFrames) return shortened(usable, bedFrames, wishedFrames, sampleRateHz);
  const shortest = SHORTEST_SECONDS * sampleRateHz;
  const pieces: BedPiece[] = [];
  const used: number[] = [];
  let at = 0;
  let played = 0;
  for (;;) {
    const left = bedFrames - at;
    const asItIs = played + left;
    if (Math.abs(asItIs - wishedFrames) <= nearly)
      return { pieces: [...pieces, { startFrame: at, endFrame: bedFrames }], joins: used, fadeFrames: 0, frames: asItIs };
    const cost = ({ index, differenceDb }: (typeof usable)[number]): number =>
      differenceDb + AGAIN_DB * used.filter((other) => other === index).length;
    const reachable = usable.filter(({ lateFrame }) => lateFrame >= at + shortest);
    // One more that brings its own end to where it is wished.
    const total = ({ earlyFrame, lateFrame }: BedJoin): number => played + (lateFrame - at) + (bedFrames - earlyFrame);
    const ending = leastOf(
      reachable.filter((join) => Math.abs(total(join) - wishedFrames) <= nearly),
      cost,
    );
    const best = leastOf(reachable, cost);
    if (asItIs > wishedFrames || !best) return faded(pieces, used, at, played, bedFrames, wishedFrames, sampleRateHz);
    const next = ending && cost(ending) <= cost(best) + OWN_END_DB ? ending : best;
    pieces.push({ startFrame: at, endFrame: next.lateFrame });
    used.push(next.index);
    played += next.lateFrame - at;
    at = next.earlyFrame;
  }
}

function leastOf<Item>(items: readonly Item[], cost: (item: Item) => number): Item | undefined {
  return items.reduce<Item | undefined>((best, item) => (best === undefined || cost(item) < cost(best) ? item : best), undefined);
}

function faded(
  pieces: readonly BedPiece[],
  joins: readonly number[],
  at: number,
  played: number,
  bedFrames: number,
  wishedFrames: number,
  sampleRateHz: number,
): BedPlan {
  const endFrame = Math.min(bedFrames, at + Math.max(1, wishedFrames - played));
  const fadeFrames = Math.min(Math.round(FADE_SECONDS * sampleRateHz), (endFrame - at) >> 1);
  return { pieces: [...pieces, { startFrame: at, endFrame }], joins, fadeFrames, frames: played + endFrame - at };
}

function shortened(
  joins: readonly (BedJoin & { readonly index: number })[],
  bedFrames: number,
  wishedFrames: number,
  sampleRateHz: number,
): BedPlan {
  const total = ({ earlyFrame, lateFrame }: BedJoin): number => bedFrames - (lateFrame - earlyFrame);
  const shortest = Math.min(SHORTEST_SECONDS * sampleRateHz, wishedFrames / 4);
  const fitting = joins.filter(
    (join) =>
      Math.abs(total(join) - wishedFrames) <= NEARLY_SECONDS * sampleRateHz &&
      join.earlyFrame >= shortest &&
      bedFrames - join.lateFrame >= shortest,
  );
  const best = leastOf(fitting, ({ differenceDb }) => differenceDb);
  if (!best) return faded([], [], 0, 0, bedFrames, wishedFrames, sampleRateHz);
  return {
    pieces: [
      { startFrame: 0, endFrame: best.earlyFrame },
      { startFrame: best.lateFrame, endFrame: bedFrames },
    ],
    joins: [best.index],
    fadeFrames: 0,
    frames: total(best),
  };
}
