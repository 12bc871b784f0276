import { bandwidthHz, powerBetween, thirdOctaves } from './spectrum-facts.js';

const BIN_HZ = 10;
const flat = new Float64Array(2401).fill(1e-6);

test('power between two frequencies, bins at the edges by their share', () => {
  expect(powerBetween(flat, BIN_HZ, 100, 200)).toBeCloseTo(10e-6, 9);
  expect(powerBetween(flat, BIN_HZ, 102, 104)).toBeCloseTo(0.2e-6, 9);
});

// IEC 61260-1: a third-octave band is 0.2316 of its exact centre wide, so of white noise each has 1 dB more than the one below.
test('third octaves of white noise rise by a decibel a band', () => {
  const bands = thirdOctaves(flat, BIN_HZ);
  expect(bands.map(({ hz }) => hz).slice(0, 6)).toEqual([25, 31.5, 40, 50, 63, 80]);
  const at = (hz: number): number => bands.find((band) => band.hz === hz)!.dbfs;
  expect(at(1000)).toBeCloseTo(10 * Math.log10((0.2307 * 1000 * 1e-6) / BIN_HZ), 1);
  for (let i = 4; i < bands.length - 1; i++) expect(bands[i + 1]!.dbfs - bands[i]!.dbfs).toBeCloseTo(1, 0);
});

test.each([3400, 8000, 16000])('a spectrum that ends at %d Hz', (edgeHz) => {
  const talk = Float64Array.from(flat, (_, k) => (k * BIN_HZ < edgeHz ? 1e-6 * (500 / (500 + k * BIN_HZ)) ** 2 : 1e-12));
  expect(Math.abs(bandwidthHz(talk, BIN_HZ)! - edgeHz)).toBeLessThan(120);
});

test('a voice that only falls towards the top has no edge, and a dip is none', () => {
  expect(
    bandwidthHz(
      Float64Array.from(flat, (_, k) => 1e-6 * (300 / (300 + k * BIN_HZ)) ** 3),
      BIN_HZ,
    ),
  ).toBeNull();
  expect(
    bandwidthHz(
      Float64Array.from(flat, (x, k) => (k > 500 && k < 560 ? 1e-11 : x)),
      BIN_HZ,
    ),
  ).toBeNull();
});
