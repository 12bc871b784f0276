import { meanSpectrumDb } from '../spectrum/spectrogram.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, sine } from '../testing/signals.js';
import { makeRoomTone } from './room-tone.js';

const room = noise(-52, 1.5, 7);
const twice = (loop: Float32Array): Float32Array => joined(loop, loop);
const largestStep = (x: Float32Array): number => x.reduce((most, v, n) => (n === 0 ? 0 : Math.max(most, Math.abs(v - x[n - 1]!))), 0);

test('as loud as the passage, everywhere, also over its seam', () => {
  const [loop] = makeRoomTone([room], RATE_HZ);
  expect(loop!.length / RATE_HZ).toBeGreaterThan(9.9);
  const sound = twice(loop!);
  const goal = levelDb(room, 0, room.length);
  for (let at = 0; at + 9600 <= sound.length; at += 4800) expect(Math.abs(levelDb(sound, at, at + 9600) - goal)).toBeLessThan(1);
});

test('no step larger than the passage’s own, seam included', () => {
  const [loop] = makeRoomTone([room], RATE_HZ);
  expect(largestStep(twice(loop!))).toBeLessThan(1.05 * largestStep(room));
});

test('sounds like the passage: its long-term spectrum, to a decibel in bands', () => {
  const [loop] = makeRoomTone([room], RATE_HZ);
  const band = (x: Float32Array, from: number, to: number): number => {
    const spectrum = meanSpectrumDb(kernels, x, 2048);
    let power = 0;
    for (let k = Math.round((from * 2048) / RATE_HZ); k < (to * 2048) / RATE_HZ; k++) power += 10 ** (spectrum[k]! / 10);
    return 10 * Math.log10(power);
  };
  for (const [from, to] of [
    [200, 800],
    [800, 3000],
    [3000, 8000],
    [8000, 20000],
  ] as const)
    expect(Math.abs(band(loop!, from, to) - band(room, from, to))).toBeLessThan(1);
});

test('a hum goes on through every joint: its level hardly moves', () => {
  const [loop] = makeRoomTone([mixed(sine(50, -40, 1.7), noise(-70, 1.7, 3))], RATE_HZ);
  const sound = twice(loop!);
  const levels: number[] = [];
  for (let at = 0; at + 4800 <= sound.length; at += 960) levels.push(levelDb(sound, at, at + 4800));
  expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(1.5);
});

test('no period shorter than the loop: it does not sound like the passage over and over', () => {
  const [loop] = makeRoomTone([room], RATE_HZ);
  const likeness = (lag: number): number => {
    let product = 0,
      power = 0;
    for (let n = 0; n + lag < loop!.length; n += 3) {
      product += loop![n]! * loop![n + lag]!;
      power += loop![n]! ** 2;
    }
    return product / power;
  };
  for (let lag = 9600; lag < 200_000; lag += 1201) expect(likeness(lag)).toBeLessThan(0.3);
});

test('channels stay together; the same passage makes the same tone; less than 0.3 s makes none', () => {
  const [left, right] = makeRoomTone([room, room.map((x) => x / 2)], RATE_HZ);
  expect(left!.reduce((most, x, n) => Math.max(most, Math.abs(x / 2 - right![n]!)), 0)).toBeLessThan(1e-6);
  const [again] = makeRoomTone([room], RATE_HZ);
  expect(Buffer.from(again!.buffer).equals(Buffer.from(left!.buffer))).toBe(true);
  expect(() => makeRoomTone([room.subarray(0, 10_000)], RATE_HZ)).toThrow(expect.objectContaining({ code: 'noise-too-short' }));
});
