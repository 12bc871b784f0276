import { profileLines, type ListRow, type NoiseProfile, type ProfileLines } from '@euphonos/dsp';
import type { Spectra } from '../../../../passage/figures-computer.js';

/** Frequencies along the chart: logarithmic, so that every octave has as many. */
export const CHART_HZ = [50, 20000] as const;
const POINTS = 140;
export function chartFrequencies(sampleRateHz: number): number[] {
  const top = Math.min(CHART_HZ[1], (sampleRateHz / 2) * 0.98);
  return Array.from({ length: POINTS }, (_, i) => CHART_HZ[0] * (top / CHART_HZ[0]) ** (i / (POINTS - 1)));
}

/** Spectra of the loop (a full-scale sine reads 0 at its bin, Hann) along frequencies, per hertz; the strongest bin in between. */
export function spectrumLine(levelsDb: Float32Array, binHz: number, hz: readonly number[]): number[] {
  // A sine of level 0 has half the power of full scale, and the window is one and a half bins wide.
  const perHz = 10 * Math.log10(3 * binHz);
  const edge = (i: number): number => Math.sqrt(hz[Math.max(0, i - 1)]! * hz[Math.min(hz.length - 1, i)]!) / binHz;
  return hz.map((_, i) => {
    const from = Math.max(1, Math.round(edge(i)));
    const to = Math.max(from, Math.round(edge(i + 1)) - 1);
    let most = -Infinity;
    for (let k = from; k <= to && k < levelsDb.length; k++) most = Math.max(most, levelsDb[k]!);
    return most - perHz;
  });
}

/** Means over neighbours: what a third of an octave is like. */
function smoothed(line: readonly number[]): number[] {
  const reach = 3;
  return line.map((_, i) => {
    const part = line.slice(Math.max(0, i - reach), i + reach + 1);
    return part.reduce((sum, db) => sum + db, 0) / part.length;
  });
}

/** The noise along the chart: of the profile, or, where it is tracked, of what lies between the words. */
export function noiseLines(profile: NoiseProfile | null, spectra: Spectra | null, hz: readonly number[]): ProfileLines | null {
  if (profile) return profileLines(profile, hz);
  if (!spectra) return null;
  const levelDb = spectrumLine(spectra.gaps.source, spectra.gaps.binHz, hz);
  return { levelDb, lowDb: levelDb, highDb: levelDb, smoothDb: smoothed(levelDb) };
}

/** A point of the curve of reduction. */
export interface CurvePoint {
  readonly frequencyHz: number;
  readonly offsetDb: number;
}
export const asCurve = (rows: readonly ListRow[]): readonly CurvePoint[] => rows as unknown as readonly CurvePoint[];
