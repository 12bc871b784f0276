import { DspError } from '../errors.js';

/** One second-order section [b0, b1, b2, a1, a2], divided by a0. */
export type Section = readonly [number, number, number, number, number];

function angularFrequency(frequencyHz: number, sampleRateHz: number): number {
  if (!(frequencyHz > 0) || frequencyHz >= sampleRateHz / 2)
    throw new DspError(
      'filter-frequency',
      `A filter at ${frequencyHz} Hz needs a sample rate above ${2 * frequencyHz} Hz; the rate is ${sampleRateHz} Hz.`,
      { frequencyHz, sampleRateHz },
    );
  return (2 * Math.PI * frequencyHz) / sampleRateHz;
}

/** High-pass section, RBJ Audio EQ Cookbook, "HPF". q = 1/√2 is Butterworth. */
export function highPassSection(frequencyHz: number, q: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  const cos = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha;
  return [(1 + cos) / 2 / a0, -(1 + cos) / a0, (1 + cos) / 2 / a0, (-2 * cos) / a0, (1 - alpha) / a0];
}

/** First-order high-pass by the bilinear transform, as a section with b2 = a2 = 0. */
export function firstOrderHighPassSection(frequencyHz: number, sampleRateHz: number): Section {
  const k = Math.tan(angularFrequency(frequencyHz, sampleRateHz) / 2);
  const b0 = 1 / (1 + k);
  return [b0, -b0, 0, (k - 1) / (k + 1), 0];
}

/** Notch section, RBJ Audio EQ Cookbook, "notch": zero at frequencyHz, -3 dB points widthHz apart (q = f / width). */
export function notchSection(frequencyHz: number, widthHz: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  const cos = Math.cos(w);
  const alpha = (Math.sin(w) * widthHz) / (2 * frequencyHz);
  const a0 = 1 + alpha;
  return [1 / a0, (-2 * cos) / a0, 1 / a0, (-2 * cos) / a0, (1 - alpha) / a0];
}

/** Low-pass section, RBJ Audio EQ Cookbook, "LPF". */
export function lowPassSection(frequencyHz: number, q: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  const cos = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha;
  return [(1 - cos) / 2 / a0, (1 - cos) / a0, (1 - cos) / 2 / a0, (-2 * cos) / a0, (1 - alpha) / a0];
}

/** Band-pass section, RBJ Audio EQ Cookbook, "BPF (constant 0 dB peak gain)". */
export function bandPassSection(frequencyHz: number, q: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha;
  return [alpha / a0, 0, -alpha / a0, (-2 * Math.cos(w)) / a0, (1 - alpha) / a0];
}

/** Bell section, RBJ Audio EQ Cookbook, "peakingEQ": gainDb at frequencyHz, 0 dB far from it. */
export function bellSection(frequencyHz: number, gainDb: number, q: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  const cos = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const a = 10 ** (gainDb / 40);
  const a0 = 1 + alpha / a;
  return [(1 + alpha * a) / a0, (-2 * cos) / a0, (1 - alpha * a) / a0, (-2 * cos) / a0, (1 - alpha / a) / a0];
}

/** Shelf section, RBJ Audio EQ Cookbook, "lowShelf" and "highShelf": gainDb beyond frequencyHz, half of it (in dB) there. */
export function shelfSection(side: 'low' | 'high', frequencyHz: number, gainDb: number, q: number, sampleRateHz: number): Section {
  const w = angularFrequency(frequencyHz, sampleRateHz);
  // The high shelf is the low one with the sign of every cosine turned.
  const sign = side === 'low' ? 1 : -1;
  const cos = sign * Math.cos(w);
  const a = 10 ** (gainDb / 40);
  const root = 2 * Math.sqrt(a) * (Math.sin(w) / (2 * q));
  const a0 = a + 1 + (a - 1) * cos + root;
  return [
    (a * (a + 1 - (a - 1) * cos + root)) / a0,
    (sign * 2 * a * (a - 1 - (a + 1) * cos)) / a0,
    (a * (a + 1 - (a - 1) * cos - root)) / a0,
    (sign * -2 * (a - 1 + (a + 1) * cos)) / a0,
    (a + 1 + (a - 1) * cos - root) / a0,
  ];
}

/**
 * Butterworth high-pass of any order (1 … 8) as sections: pole pairs at q = 1 / (2 cos θ), evenly spaced on
 * the circle, and a first-order section when the order is odd.
 */
export function butterworthHighPass(cutoffHz: number, order: number, sampleRateHz: number): Section[] {
  const sections: Section[] = [];
  for (let pair = 0; pair < Math.floor(order / 2); pair++) {
    const theta = (Math.PI * (2 * pair + 1 + (order % 2))) / (2 * order);
    sections.push(highPassSection(cutoffHz, 1 / (2 * Math.cos(theta)), sampleRateHz));
  }
  if (order % 2 === 1) sections.push(firstOrderHighPassSection(cutoffHz, sampleRateHz));
  return sections;
}

/**
 * Butterworth band-pass between two frequencies where it is 3 dB down, each slope of the order 1 … 8: the low-pass prototype's poles p
 * become the roots of s² − (high − low) p s + low · high, edges prewarped for the bilinear transform. Unity at the geometric middle.
 */
export function butterworthBandPass(lowHz: number, highHz: number, order: number, sampleRateHz: number): Section[] {
  const warped = (hz: number): number => Math.tan((Math.PI * hz) / sampleRateHz);
  const [low, high] = [warped(lowHz), warped(highHz)];
  const width = high - low;
  const middle = low * high;
  const sections: Section[] = [];
  // s² + c1 s + c0 under s = (1 − z⁻¹) / (1 + z⁻¹).
  const add = (c1: number, c0: number): void => {
    const a0 = 1 + c1 + c0;
    sections.push([1 / a0, 0, -1 / a0, (2 * c0 - 2) / a0, (1 - c1 + c0) / a0]);
  };
  for (let pair = 0; pair < Math.floor(order / 2); pair++) {
    const theta = (Math.PI * (2 * pair + 1 + (order % 2))) / (2 * order);
    // p = −cos θ + j sin θ; its two roots, each with its conjugate from the other pole of the pair.
    const [re, im] = [(-width * Math.cos(theta)) / 2, (width * Math.sin(theta)) / 2];
    // Square root of (p width / 2)² − middle.
    const [x, y] = [re * re - im * im - middle, 2 * re * im];
    const size = Math.hypot(x, y);
    const [rootRe, rootIm] = [Math.sqrt((size + x) / 2), Math.sign(y) * Math.sqrt((size - x) / 2)];
    for (const sign of [1, -1]) {
      const [r, i] = [re + sign * rootRe, im + sign * rootIm];
      add(-2 * r, r * r + i * i);
    }
  }
  if (order % 2 === 1) add(width, middle);
  const middleHz = (sampleRateHz / Math.PI) * Math.atan(Math.sqrt(middle));
  const gain = cascadeMagnitude(sections, middleHz, sampleRateHz) ** (-1 / sections.length);
  return sections.map(([b0, b1, b2, a1, a2]) => [gain * b0, gain * b1, gain * b2, a1, a2]);
}

/** Magnitude of a cascade at one frequency, as an amplitude ratio. */
export function cascadeMagnitude(sections: readonly Section[], frequencyHz: number, sampleRateHz: number): number {
  const w = (2 * Math.PI * frequencyHz) / sampleRateHz;
  const magnitude = (c0: number, c1: number, c2: number): number =>
    Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w));
  return sections.reduce((product, [b0, b1, b2, a1, a2]) => product * (magnitude(b0, b1, b2) / magnitude(1, a1, a2)), 1);
}
