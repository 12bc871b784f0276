import { DspError } from '../errors.js';
import { kernels, mixed, noise, RATE_HZ, sine } from '../testing/signals.js';
import { parseProfileFile, profileFromFile, profileToFile } from './profile-file.js';
import { takeNoiseProfile } from './profile.js';

const db = (power: number): number => 10 * Math.log10(power);
const taken = takeNoiseProfile(kernels, [mixed(noise(-40, 8, 1), sine(1000, -60, 8)), noise(-50, 8, 2)], RATE_HZ);
const file = profileToFile(taken, 'Mill room', 'mill.flac, 3.00 to 11.00 s');

test('densities add up to the level: white noise of -40 dBFS over 24 kHz is -83.8 dB per hertz', () => {
  const inner = file.channels[0]!.levelDb.slice(10, 1014);
  expect(inner.reduce((sum, value) => sum + 10 ** (value / 10), 0) * file.stepHz).toBeCloseTo(10 ** -4, 5);
  expect(db(inner.reduce((sum, value) => sum + 10 ** (value / 10), 0) / inner.length)).toBeCloseTo(-40 - db(24000), 1);
});

test('written and read again it is the same profile within the rounding of 0.01 dB', () => {
  const again = profileFromFile(parseProfileFile(JSON.parse(JSON.stringify(file))), RATE_HZ, 2);
  expect(again).toMatchObject({ sampleRateHz: RATE_HZ, frameSize: taken.frameSize, frameCount: taken.frameCount });
  for (const c of [0, 1])
    for (let k = 0; k < 1025; k += 13) {
      expect(Math.abs(db(again.channels[c]!.meanPower[k]! / taken.channels[c]!.meanPower[k]!))).toBeLessThan(0.006);
      expect(Math.abs(again.channels[c]!.levelSpreadDb[k]! - taken.channels[c]!.levelSpreadDb[k]!)).toBeLessThan(0.006);
    }
});

test.each([44100, 96000, 16000])('at %d Hz the same noise is expected as a profile taken there would know', (rate) => {
  // The same power density at another rate: a level lower or higher by the ratio of the bandwidths.
  const there = takeNoiseProfile(kernels, [noise(-40 + db(rate / RATE_HZ), 8, 3, rate)], rate);
  const resampled = profileFromFile(profileToFile(takeNoiseProfile(kernels, [noise(-40, 8, 1)], RATE_HZ), 'n', ''), rate, 1);
  expect(resampled.frameSize).toBe(there.frameSize);
  const mean = (power: Float32Array): number => power.subarray(8, 300).reduce((sum, p) => sum + p, 0) / 292;
  expect(Math.abs(db(mean(resampled.channels[0]!.meanPower) / mean(there.channels[0]!.meanPower)))).toBeLessThan(0.25);
});

test('one channel serves for two, and the mean of two for one', () => {
  const mono = profileFromFile(file, RATE_HZ, 1).channels;
  expect(mono).toHaveLength(1);
  expect(db(mono[0]!.meanPower[700]! / ((taken.channels[0]!.meanPower[700]! + taken.channels[1]!.meanPower[700]!) / 2))).toBeCloseTo(0, 2);
  const wide = profileFromFile({ ...file, channels: [file.channels[0]!] }, RATE_HZ, 2).channels;
  expect(wide[1]!.meanPower).toEqual(wide[0]!.meanPower);
});

test.each<[string, (json: Record<string, unknown>) => unknown]>([
  ['something else', (json) => ({ ...json, format: 'chain' })],
  ['a newer version', (json) => ({ ...json, version: 2 })],
  ['no name', (json) => ({ ...json, name: ' ' })],
  ['lists of different lengths', (json) => ({ ...json, channels: [{ ...file.channels[0], levelDb: [1, 2, 3, 4] }] })],
  [
    'a value that is no number',
    (json) => ({ ...json, channels: [{ ...file.channels[0], levelDb: file.channels[0]!.levelDb.map(() => null) }] }),
  ],
  ['three channels', (json) => ({ ...json, channels: [1, 2, 3].map(() => file.channels[0]) })],
  ['a step of nothing', (json) => ({ ...json, stepHz: 0 })],
  ['no object', () => 'profile'],
])('%s is refused, and it is said why', (_, broken) => {
  const read = (): unknown => parseProfileFile(broken(JSON.parse(JSON.stringify(file))));
  expect(read).toThrow(DspError);
  expect(read).toThrow(/no noise profile that can be read: .{10}/);
});
