import { kernels, RATE_HZ, run, sine, toneDb } from '../testing/signals.js';
import { GlidingFilter } from './gliding-filter.js';
import { butterworthHighPass, cascadeMagnitude, notchSection } from './sections.js';

/** Frequency of the analogue prototype that the bilinear transform puts at `hz`, relative to the cutoff. */
const warped = (hz: number, cutoffHz: number): number => Math.tan((Math.PI * hz) / RATE_HZ) / Math.tan((Math.PI * cutoffHz) / RATE_HZ);

// Closed form of the Butterworth magnitude: |H|² = 1 / (1 + (fc / f)^2n), Butterworth 1930.
test.each([1, 2, 3, 4, 5, 6, 7, 8])('Butterworth high-pass of order %i has the closed-form magnitude', (order) => {
  const sections = butterworthHighPass(100, order, RATE_HZ);
  for (const hz of [20, 50, 80, 100, 150, 400, 5000]) {
    const closedForm = -10 * Math.log10(1 + warped(hz, 100) ** (-2 * order));
    expect(20 * Math.log10(cascadeMagnitude(sections, hz, RATE_HZ))).toBeCloseTo(closedForm, 4);
  }
  expect(20 * Math.log10(cascadeMagnitude(sections, 100, RATE_HZ))).toBeCloseTo(-3.0103, 3);
});

// RBJ Audio EQ Cookbook: the notch is zero at f0 and its bandwidth is between the -3 dB points (bilinear).
test('the notch is zero on its line and 3 dB down at the edges of its width', () => {
  const section = [notchSection(50, 4, RATE_HZ)];
  expect(cascadeMagnitude(section, 50, RATE_HZ)).toBeLessThan(1e-6);
  // Analogue prototype: edges at f0 (√(1 + 1/4Q²) ± 1/2Q), Q = f0 / width.
  const q = 50 / 4;
  for (const edge of [Math.sqrt(1 + 1 / (4 * q * q)) + 1 / (2 * q), Math.sqrt(1 + 1 / (4 * q * q)) - 1 / (2 * q)])
    expect(20 * Math.log10(cascadeMagnitude(section, 50 * edge, RATE_HZ))).toBeCloseTo(-3.01, 1);
  expect(cascadeMagnitude(section, 1000, RATE_HZ)).toBeCloseTo(1, 4);
});

test('a glide from 40 to 400 Hz has no step larger than the tone itself makes', () => {
  const filter = new GlidingFilter({ channels: 1, sampleRateHz: RATE_HZ, kernels }, [40], ([hz]) => butterworthHighPass(hz!, 4, RATE_HZ));
  const tone = sine(200, -6, 1);
  const before = run(filter, [tone.subarray(0, 24000)])[0]!;
  filter.glideTo([400]);
  const after = run(filter, [tone.subarray(24000)])[0]!;
  const whole = [...before, ...after];
  let largest = 0;
  for (let n = 20000; n < 40000; n++) largest = Math.max(largest, Math.abs(whole[n]! - whole[n - 1]!));
  expect(largest).toBeLessThan(1.05 * 10 ** (-6 / 20) * 2 * Math.PI * (200 / RATE_HZ));
  expect(toneDb(after, 200, 12000)).toBeCloseTo(-6 - 10 * Math.log10(1 + warped(200, 400) ** -8), 1);
});

test('a filter above half the sample rate is refused with both numbers', () => {
  expect(() => notchSection(30000, 4, RATE_HZ)).toThrow(/30000 Hz.*48000 Hz/);
});
