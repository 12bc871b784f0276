import type { CompressorValues } from './settings.js';

/** Below the level from which quiet sound is lifted, the lift is gone over this many dB: the room stays where it is. */
const FLOOR_FADE_DB = 12;

/** How far a level stands over the threshold, with a quadratic knee (Giannoulis, Massberg & Reiss 2012, eq. 4 without the slope). */
function over(levelDb: number, thresholdDb: number, kneeDb: number): number {
  const above = levelDb - thresholdDb;
  const half = kneeDb / 2;
  return above <= -half ? 0 : above >= half ? above : (above + half) ** 2 / (2 * kneeDb);
}

type Curve = Pick<CompressorValues, 'thresholdDb' | 'ratio' | 'kneeDb' | 'rangeDb' | 'floorDbfs'>;

/**
 * Static curve of a downward compressor: gain in dB (0 or less) at a level in dBFS, before make-up and mix.
 * Giannoulis, Massberg & Reiss 2012, eq. 4: the output above the threshold rises by 1/ratio.
 */
export const downwardGainDb = (levelDb: number, { thresholdDb, ratio, kneeDb }: Curve): number =>
  (1 / ratio - 1) * over(levelDb, thresholdDb, kneeDb);

/**
 * Static curve of an upward compressor: the same curve turned to the side below the threshold, gain in dB (0 to the range). What is
 * quieter than the floor for a while (`whileDb`, its latest peaks) is lifted less and less, so that the room between words is not.
 */
export function upwardGainDb(levelDb: number, whileDb: number, { thresholdDb, ratio, kneeDb, rangeDb, floorDbfs }: Curve): number {
  const lift = Math.min(rangeDb, (1 - 1 / ratio) * over(-levelDb, -thresholdDb, kneeDb));
  return lift * Math.max(0, Math.min(1, 1 + (whileDb - floorDbfs) / FLOOR_FADE_DB));
}
