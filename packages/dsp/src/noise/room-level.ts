import { powerToDb } from '../units.js';
import type { SpanSeconds } from '../span-seconds.js';

/** Levels in the quietest part of a stretch are those of the room. */
const ROOM_SHARE = 0.3;
/** The room around a place is looked for within this much on either side of it. */
const AROUND_SECONDS = 0.6;
/** Further apart than this it is not the same room. */
const MOST_GAIN_DB = 12;

/** Level of the room in a stretch: the mean power of its quietest part, dBFS. @param levels dBFS, steps of `stepSeconds` */
export function roomLevelDb(levels: Float32Array, stepSeconds: number, { startSeconds, endSeconds }: SpanSeconds): number {
  const from = Math.max(0, Math.floor(startSeconds / stepSeconds));
  const powers = Array.from(levels.subarray(from, Math.max(from + 1, Math.ceil(endSeconds / stepSeconds))), (db) => 10 ** (db / 10)).sort(
    (a, b) => a - b,
  );
  const quiet = powers.slice(0, Math.max(1, Math.round(ROOM_SHARE * powers.length)));
  return powerToDb(quiet.reduce((sum, x) => sum + x, 0) / Math.max(1, quiet.length) + 1e-20);
}

/** The gain at which room tone of a passage meets the room around another place, dB. */
export function roomToneGain(levels: Float32Array, stepSeconds: number, passage: SpanSeconds): (place: SpanSeconds) => number {
  // The same share of both, so that what lies above the room counts in neither.
  const own = roomLevelDb(levels, stepSeconds, passage);
  return ({ startSeconds, endSeconds }) => {
    const room = roomLevelDb(levels, stepSeconds, {
      startSeconds: Math.max(0, startSeconds - AROUND_SECONDS),
      endSeconds: endSeconds + AROUND_SECONDS,
    });
    return Math.round(10 * Math.max(-MOST_GAIN_DB, Math.min(MOST_GAIN_DB, room - own))) / 10;
  };
}
