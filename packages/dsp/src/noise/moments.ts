import { powerToDb } from '../units.js';

/** Mean square of samples [from, to). */
export function meanSquare(samples: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n]! ** 2;
  return to > from ? sum / (to - from) : 0;
}

/** Levels in half overlapping steps, dBFS. The first 80 ms are left out: they hold the start of a filter. */
export function levelsOf(samples: Float32Array, stepSeconds: number, sampleRateHz: number): number[] {
  const step = Math.round(stepSeconds * sampleRateHz);
  const levels: number[] = [];
  for (let from = firstFrame(sampleRateHz); from + step <= samples.length; from += step / 2)
    levels.push(powerToDb(meanSquare(samples, Math.floor(from), Math.floor(from) + step) + 1e-20));
  return levels;
}
const firstFrame = (sampleRateHz: number): number => Math.round(0.08 * sampleRateHz);

/** What stands out most: how long it stays half-way up (in dB) over the quiet, and whether it has the period of a voice. */
export interface Moment {
  readonly seconds: number;
  readonly voiced: boolean;
}

const LOWEST_VOICE_HZ = 70;
const HIGHEST_VOICE_HZ = 420;
const VOICED = 0.6;

/** @param levels of `levelsOf(samples, stepSeconds)`. */
export function loudestMoment(
  samples: Float32Array,
  levels: readonly number[],
  quietDb: number,
  stepSeconds: number,
  sampleRateHz: number,
): Moment {
  const top = levels.indexOf(Math.max(...levels));
  const halfDb = (quietDb + levels[top]!) / 2;
  let from = top;
  let to = top + 1;
  while (from > 0 && levels[from - 1]! > halfDb) from--;
  while (to < levels.length && levels[to]! > halfDb) to++;
  const middle = firstFrame(sampleRateHz) + Math.floor(((top + 1) * stepSeconds * sampleRateHz) / 2);
  return { seconds: ((to - from) * stepSeconds) / 2, voiced: periodicity(samples, middle, sampleRateHz) > VOICED };
}

/** Highest normalised autocorrelation at a voice's period in the 80 ms around a frame, 0 … 1. */
function periodicity(samples: Float32Array, middle: number, sampleRateHz: number): number {
  const from = Math.max(0, middle - Math.round(0.04 * sampleRateHz));
  const part = samples.subarray(from, Math.min(samples.length, from + Math.round(0.08 * sampleRateHz)));
  let best = 0;
  for (let lag = Math.floor(sampleRateHz / HIGHEST_VOICE_HZ); lag <= sampleRateHz / LOWEST_VOICE_HZ; lag++) {
    let [product, a, b] = [0, 0, 0];
    for (let n = 0; n + lag < part.length; n++) {
      product += part[n]! * part[n + lag]!;
      a += part[n]! ** 2;
      b += part[n + lag]! ** 2;
    }
    best = Math.max(best, product / Math.sqrt(a * b + 1e-30));
  }
  return best;
}

/** The longest run of samples at the highest magnitude of a sound: a recording that never clipped has one or two. */
export function flatSamples(samples: Float32Array): number {
  let top = 0;
  for (const x of samples) top = Math.max(top, Math.abs(x));
  // A few steps of 16 bits are flat by nature.
  if (top < 0.01) return 0;
  let longest = 0;
  let run = 0;
  for (const x of samples) longest = Math.max(longest, (run = Math.abs(x) >= top * 0.9999 ? run + 1 : 0));
  return longest;
}
