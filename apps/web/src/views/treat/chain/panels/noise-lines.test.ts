import { meanSpectrumDb, profileLines, takeNoiseProfile } from '@euphonos/dsp';
import { kernels, mixed, noise, RATE_HZ, sine } from '../../../../../../../packages/dsp/src/testing/signals.js';
import { chartFrequencies, noiseLines, spectrumLine } from './noise-lines.js';

const hz = chartFrequencies(RATE_HZ);
const mean = (line: readonly number[]): number => line.slice(60, 130).reduce((sum, db) => sum + db, 0) / 70;

test('frequencies run to the edge of the band, in equal steps of pitch', () => {
  expect(hz[0]).toBe(50);
  expect(hz[hz.length - 1]).toBeCloseTo(20000);
  expect(chartFrequencies(16000).at(-1)).toBeCloseTo(7840);
  expect(hz[11]! / hz[10]!).toBeCloseTo(hz[101]! / hz[100]!);
});

test('spectrum and profile of the same noise lie on each other: both are per hertz', () => {
  const sound = noise(-40, 12, 1);
  const words = spectrumLine(meanSpectrumDb(kernels, sound, 8192), RATE_HZ / 8192, hz);
  const known = profileLines(takeNoiseProfile(kernels, [sound], RATE_HZ), hz);
  // White noise of -40 dBFS over 24 kHz: -83.8 dB per hertz; the strongest of several bins lies a little above.
  expect(Math.abs(mean(words) + 83.8)).toBeLessThan(1.5);
  expect(Math.abs(mean(words) - mean(known.levelDb))).toBeLessThan(1);
});

test('without a profile the noise between the words is drawn', () => {
  const gaps = meanSpectrumDb(kernels, mixed(noise(-50, 8, 2), sine(1000, -30, 8)), 32768);
  const spectra = { binHz: 1, source: gaps, result: gaps, gaps: { binHz: RATE_HZ / 32768, source: gaps, result: gaps } };
  const { levelDb, smoothDb } = noiseLines(null, spectra, hz)!;
  expect(Math.abs(mean(smoothDb) + 93.8)).toBeLessThan(4);
  expect(Math.max(...levelDb)).toBeGreaterThan(-45);
  expect(noiseLines(null, null, hz)).toBeNull();
});
