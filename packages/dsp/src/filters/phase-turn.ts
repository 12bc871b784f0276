import { firstOrderHighPassSection, type Section } from './sections.js';

/** All-pass section, RBJ Audio EQ Cookbook, "APF": turns by 180° at frequencyHz, the faster the larger q. */
export function allPassSection(frequencyHz: number, q: number, sampleRateHz: number): Section {
  const w = (2 * Math.PI * frequencyHz) / sampleRateHz;
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha;
  const turn = (-2 * Math.cos(w)) / a0;
  const last = (1 - alpha) / a0;
  return [last, turn, 1, turn, last];
}

/** First-order all-pass, +1 at half the sample rate and -1 at 0 Hz, as a section with b2 = a2 = 0. */
export function firstOrderAllPassSection(frequencyHz: number, sampleRateHz: number): Section {
  const [b0, , , a1] = firstOrderHighPassSection(frequencyHz, sampleRateHz);
  // 2 H - 1: the low and the high part of first order add up to 1, and their difference passes all.
  return [2 * b0 - 1, -2 * b0 - a1, 0, a1, 0];
}

/** [frequency over the cutoff, q] of each pair of poles, and the frequency of a single pole. */
interface TurnPoles {
  readonly pairs: readonly (readonly [number, number])[];
  readonly single?: number;
}

/**
 * All-passes of half the order of a Butterworth high-pass, order 1 to 8, fitted to its phase (least squares of |A - H|, weighted by
 * frequency, from 0.4 to 100 times the cutoff). Where the high-pass takes nothing both turn alike: A - H is -26, -41, -51, -38, -49,
 * -44, -45, -59 dB at three times the cutoff. For squares of Butterworth filters it would be exact (Linkwitz & Riley 1976).
 */
const FITTED: readonly TurnPoles[] = [
  { pairs: [], single: 0.4853 },
  { pairs: [], single: 0.736 },
  { pairs: [[0.7384, 0.737]] },
  { pairs: [[0.9662, 0.7459]] },
  { pairs: [[0.8595, 1.0033]], single: 0.7583 },
  { pairs: [[0.9664, 1.2342]], single: 1.1517 },
  {
    pairs: [
      [0.7252, 0.4707],
      [0.9578, 1.3515],
    ],
  },
  {
    pairs: [
      [1.1029, 0.5572],
      [0.9622, 1.6475],
    ],
  },
];

/** What turns phase as `butterworthHighPass` does where that takes nothing, and takes nothing anywhere. */
export function butterworthTurn(cutoffHz: number, order: number, sampleRateHz: number): Section[] {
  // Ratios hold between the frequencies of the analogue prototype, before the bilinear transform.
  const warped = Math.tan((Math.PI * cutoffHz) / sampleRateHz);
  const at = (ratio: number): number => (Math.atan(ratio * warped) * sampleRateHz) / Math.PI;
  const { pairs, single } = FITTED[order - 1]!;
  const sections = pairs.map(([ratio, q]) => allPassSection(at(ratio), q, sampleRateHz));
  return single === undefined ? sections : [...sections, firstOrderAllPassSection(at(single), sampleRateHz)];
}

/** What turns phase as `notchSection` does beside its width: an all-pass half as wide, with the notch's own turn from edge to edge. */
export const notchTurn = (frequencyHz: number, widthHz: number, sampleRateHz: number): Section =>
  allPassSection(frequencyHz, (2 * frequencyHz) / widthHz, sampleRateHz);
