import { powerToDb } from '../units.js';
import type { NoisePassage } from './findings.js';
import { quantile, runs } from './growing.js';
import type { HeardChannel } from './talk.js';

/** A passage is this long at least, no louder than this above the floor, and this far from words. Common practice, no source. */
const LEAST_SECONDS = 0.5;
const ABOVE_FLOOR_DB = 5;
const CLEAR_SECONDS = 0.1;
const LEAST_DBFS = -98;
const MOST = 20;
/** More than this makes a profile no better; each decibel of level, flutter and drift costs as much as so many seconds. */
const ENOUGH_SECONDS = 2;
const SECONDS_PER_DB = { level: 0.25, flutter: 0.2, drift: 0.3 } as const;

/**
 * Stretches with noise alone, best first: long (two seconds are enough), steady, and as quiet as the quietest of
 * them. A louder one holds more than the noise that lies under the words. Of several channels: noise alone on all of them,
 * their power together.
 * @param elsewhere frames in which something sounds on another channel: what is heard of that here is no noise.
 */
export function findPassages(channels: readonly HeardChannel[], elsewhere: Uint8Array = new Uint8Array(0)): NoisePassage[] {
  const seconds = channels[0]!.features.frameSeconds;
  const clear = Math.round(CLEAR_SECONDS / seconds);
  const noise = new Uint8Array(channels[0]!.features.body.values.length).fill(1);
  for (const { features, talk } of channels) {
    const body = features.body.values;
    for (let i = 0; i < noise.length; i++) if (!(body[i]! < talk.floorDb[i]! + ABOVE_FLOOR_DB && body[i]! > LEAST_DBFS)) noise[i] = 0;
    for (const { from, to } of talk.stretches) noise.fill(0, Math.max(0, from - clear), to + clear);
  }
  elsewhere.forEach((flag, i) => flag && noise.fill(0, Math.max(0, i - clear), i + 1 + clear));
  const levels = channels.map(({ features }) => features.level.values);
  const level =
    levels.length === 1
      ? levels[0]!
      : levels[0]!.map((_, i) => powerToDb(levels.reduce((sum, values) => sum + 10 ** (values[i]! / 10), 0) / levels.length));
  const found = runs(noise)
    .filter(([from, to]) => (to - 1 - from) * seconds >= LEAST_SECONDS)
    .map(([from, to]) => describe(level.subarray(from, to), from * seconds, (to - 1) * seconds));
  const quietest = Math.min(...found.map(({ dbfs }) => dbfs));
  const worth = ({ startSeconds, endSeconds, dbfs, withinDb, driftDb }: NoisePassage): number =>
    Math.min(ENOUGH_SECONDS, endSeconds - startSeconds) -
    SECONDS_PER_DB.level * (dbfs - quietest) -
    SECONDS_PER_DB.flutter * withinDb -
    SECONDS_PER_DB.drift * Math.abs(driftDb);
  return found.sort((a, b) => worth(b) - worth(a)).slice(0, MOST);
}

/** @param levels of its frames, dBFS. */
function describe(levels: Float32Array, startSeconds: number, endSeconds: number): NoisePassage {
  const mean = (part: Float32Array): number => powerToDb(part.reduce((sum, db) => sum + 10 ** (db / 10), 0) / Math.max(1, part.length));
  const third = Math.ceil(levels.length / 3);
  const tenth = (db: number): number => Math.round(10 * db) / 10;
  return {
    startSeconds,
    endSeconds,
    dbfs: tenth(mean(levels)),
    withinDb: tenth(quantile(levels, 0.95) - quantile(levels, 0.05)),
    driftDb: tenth(mean(levels.subarray(levels.length - third)) - mean(levels.subarray(0, third))),
  };
}
