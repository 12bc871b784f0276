import { joined, kernels, mixed, noise, RATE_HZ, silence, sine } from '../testing/signals.js';
import { judgeNoisePassage } from './judge.js';
import { takeNoiseProfile } from './profile.js';

test('white noise: flat, and its spreads are those of a chi-squared variable with two degrees', () => {
  const profile = takeNoiseProfile(kernels, [noise(-40, 20, 1)], RATE_HZ);
  const { meanPower, powerSpread, levelSpreadDb, meanLevelDb } = profile.channels[0]!;
  const inner = (values: Float32Array): number => values.subarray(10, 1014).reduce((sum, v) => sum + v, 0) / 1004;
  // The window is √(Hann/2), so the expected power a bin is sigma² · sum of w² = sigma² · N / 4.
  expect(10 * Math.log10(inner(meanPower))).toBeCloseTo(-40 + 10 * Math.log10(2048 / 4), 1);
  // Exponential distribution: deviation = mean; in dB the deviation is 5.57 and the mean level 2.51 dB lower
  // (10/ln 10 · π/√6 and 10/ln 10 · Euler's γ).
  expect(inner(powerSpread) / inner(meanPower)).toBeCloseTo(1, 1);
  expect(Math.abs(inner(levelSpreadDb) - 5.57)).toBeLessThan(0.15);
  expect(Math.abs(10 * Math.log10(inner(meanPower)) - inner(meanLevelDb) - 2.51)).toBeLessThan(0.1);
});

test('a passage under 0.3 s is refused with its length', () => {
  expect(() => takeNoiseProfile(kernels, [noise(-40, 0.2)], RATE_HZ)).toThrow(/0\.20 s/);
});

describe('judging a passage', () => {
  const judge = (sound: Float32Array) => judgeNoisePassage(kernels, [sound], RATE_HZ);
  test('steady noise is clean', () => expect(judge(noise(-50, 2)).verdict).toBe('clean'));
  test('noise with hum is clean', () => expect(judge(mixed(noise(-50, 2), sine(50, -40, 2))).verdict).toBe('clean'));
  test('half a second is short', () => expect(judge(noise(-50, 0.5))).toMatchObject({ verdict: 'short' }));
  test('0.2 s is too short, and the figure is named', () => {
    const { verdict, sentence } = judge(noise(-50, 0.2));
    expect(verdict).toBe('too-short');
    expect(sentence).toMatch(/0\.20 s/);
  });
  test('a word in it is found, and the figure is named', () => {
    const word = joined(silence(0.7), sine(180, -30, 0.3), silence(1));
    const { verdict, sentence, riseDb } = judge(mixed(noise(-50, 2), word));
    expect(verdict).toBe('speech');
    expect(riseDb).toBeGreaterThan(10);
    expect(sentence).toContain(`${riseDb.toFixed(1)} dB`);
  });
  test('digital silence teaches nothing', () => expect(judge(silence(2)).verdict).toBe('silent'));
});
