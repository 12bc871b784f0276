import { kernels, noise, RATE_HZ } from '../testing/signals.js';
import { joinProfiles, takeNoiseProfile } from './profile.js';

test('white noise: flat, and its spreads are those of a chi-squared variable with two degrees', () => {
  const profile = takeNoiseProfile(kernels, [noise(-40, 20, 1)], RATE_HZ);
  const { meanPower, levelSpreadDb, meanLevelDb } = profile.channels[0]!;
  const inner = (values: Float32Array): number => values.subarray(10, 1014).reduce((sum, v) => sum + v, 0) / 1004;
  // The window is √(Hann/2), so the expected power a bin is sigma² · sum of w² = sigma² · N / 4.
  expect(10 * Math.log10(inner(meanPower))).toBeCloseTo(-40 + 10 * Math.log10(2048 / 4), 1);
  // Exponential distribution: in dB the deviation is 5.57 and the mean level 2.51 dB lower than that of the mean
  // (10/ln 10 · π/√6 and 10/ln 10 · Euler's γ).
  expect(Math.abs(inner(levelSpreadDb) - 5.57)).toBeLessThan(0.15);
  expect(Math.abs(10 * Math.log10(inner(meanPower)) - inner(meanLevelDb) - 2.51)).toBeLessThan(0.1);
});

test('a passage under 0.3 s is refused with its length', () => {
  expect(() => takeNoiseProfile(kernels, [noise(-40, 0.2)], RATE_HZ)).toThrow(/0\.20 s/);
});

test('two passages make the profile of all their frames; each counts by its length', () => {
  const [quiet, loud] = [takeNoiseProfile(kernels, [noise(-60, 1, 1)], RATE_HZ), takeNoiseProfile(kernels, [noise(-40, 3, 2)], RATE_HZ)];
  const both = joinProfiles([quiet, loud]);
  expect(both.frameCount).toBe(quiet.frameCount + loud.frameCount);
  const share = loud.frameCount / both.frameCount;
  for (const k of [40, 400]) {
    expect(
      both.channels[0]!.meanPower[k]! / (share * loud.channels[0]!.meanPower[k]! + (1 - share) * quiet.channels[0]!.meanPower[k]!),
    ).toBeCloseTo(1, 5);
    // Levels of two kinds lie apart: 20 dB between the two makes a spread of its own, √(s(1-s)) · 20 dB.
    expect(both.channels[0]!.levelSpreadDb[k]!).toBeGreaterThan(Math.sqrt(share * (1 - share)) * 18);
  }
  expect(joinProfiles([loud])).toBe(loud);
});
