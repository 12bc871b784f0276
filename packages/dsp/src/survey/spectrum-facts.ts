import { powerToDb } from '../units.js';
import type { ThirdOctave } from './findings.js';

/** Nominal centres, IEC 61260-1; the exact ones are 1000 · 10^(n / 10), with band edges a factor 10^(± 1 / 20) away. */
export const NOMINAL_HZ = [
  25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000,
  10000, 12500, 16000, 20000,
];

/** Exact centre of the band of that index in `NOMINAL_HZ`. */
export const exactHz = (index: number): number => 1000 * 10 ** ((index - 16) / 10);

/** Power between two frequencies of a spectrum with mean squares a bin; bins at the edges count by their share. */
export function powerBetween(power: ArrayLike<number>, binHz: number, lowHz: number, highHz: number): number {
  let sum = 0;
  const first = Math.max(1, Math.floor(lowHz / binHz + 0.5));
  const last = Math.min(power.length - 1, Math.ceil(highHz / binHz - 0.5));
  for (let k = first; k <= last; k++) {
    const low = Math.max(lowHz, (k - 0.5) * binHz);
    const high = Math.min(highHz, (k + 0.5) * binHz);
    if (high > low) sum += (power[k]! * (high - low)) / binHz;
  }
  return sum;
}

/** Third-octave levels of a spectrum, as far as it reaches. */
export function thirdOctaves(power: ArrayLike<number>, binHz: number): ThirdOctave[] {
  return NOMINAL_HZ.flatMap((hz, i) => {
    const exact = exactHz(i);
    if (exact * 10 ** 0.05 > (power.length - 1) * binHz) return [];
    return [{ hz, dbfs: Math.round(10 * powerToDb(powerBetween(power, binHz, exact * 10 ** -0.05, exact * 10 ** 0.05) + 1e-16)) / 10 }];
  });
}

/** Where talk ends towards the top: it falls steeply there and nothing of it lies above. Null when it fills the band. */
export function bandwidthHz(talk: ArrayLike<number>, binHz: number): number | null {
  const width = Math.max(2, Math.round(250 / binHz));
  const level = (from: number): number => {
    let sum = 0;
    for (let k = from; k < from + width; k++) sum += talk[k] ?? 0;
    return powerToDb(sum / width + 1e-17);
  };
  const top = talk.length - 1;
  let best = 0;
  let bestDrop = 0;
  // The steepest drop over half a kilohertz, that everything above stays below.
  const apart = Math.max(1, Math.round(200 / binHz));
  for (let k = Math.round(1800 / binHz); k < top - width - apart; k++) {
    const drop = level(k - width) - level(k + apart);
    if (drop > bestDrop) {
      bestDrop = drop;
      best = k;
    }
  }
  if (bestDrop < 14) return null;
  const below = level(best - width);
  for (let k = best + apart; k + width < top; k += width) if (level(k) > below - bestDrop * 0.6) return null;
  // The edge itself: half-way down.
  const edge = below - bestDrop / 2;
  let k = best - width;
  while (k < best + width && powerToDb((talk[k]! + talk[k + 1]!) / 2 + 1e-17) > edge) k++;
  return k * binHz;
}
