import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { kernels, noise, RATE_HZ } from '../testing/signals.js';
import type { ReadableSound } from './envelope.js';
import { lineUp } from './line-up.js';

function demo(name: string): Float32Array {
  const path = join(__dirname, '../../../../demo', name);
  const bytes = execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-i', path, '-f', 'f32le', '-ac', '1', '-ar', String(RATE_HZ), '-'], {
    maxBuffer: 1 << 28,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}
const sound = (x: Float32Array): ReadableSound => ({
  frames: x.length,
  read: (from, to) => Promise.resolve(Float32Array.from({ length: to - from }, (_, n) => x[from + n] ?? 0)),
});
/** The same scene by another microphone: a stretch of it, duller, with an echo, at another level, in noise, by a clock that is slow. */
function elsewhere(x: Float32Array, from: number, frames: number, { ppm = 0, gain = 0.3, noiseDbfs = -60 } = {}): Float32Array {
  const hiss = noise(noiseDbfs, frames / RATE_HZ, 77);
  let low = 0;
  const at = (frame: number): number => {
    const whole = Math.floor(frame);
    return x[whole]! + (frame - whole) * ((x[whole + 1] ?? 0) - x[whole]!);
  };
  return hiss.map((h, n) => {
    const frame = from + n * (1 + ppm * 1e-6);
    low += 0.6 * (at(frame) + 0.4 * at(Math.max(0, frame - 530)) - low);
    return gain * low + h;
  });
}
const scene = demo('narrator.flac');

test('another microphone of the same scene: offset to 1 ms, drift, and polarity', async () => {
  const found = await lineUp(kernels, RATE_HZ, sound(scene), sound(elsewhere(scene, 9 * RATE_HZ, 30 * RATE_HZ, { gain: -0.3, ppm: 60 })));
  expect(Math.abs(found!.offsetSeconds - 9)).toBeLessThan(0.001);
  expect(Math.abs(found!.driftPpm - 60)).toBeLessThan(15);
  expect(found).toMatchObject({ inverted: true });
  expect(found!.certainty).toBeGreaterThan(0.8);
});

test('one that began before the other: its offset is negative', async () => {
  const found = await lineUp(kernels, RATE_HZ, sound(elsewhere(scene, 12 * RATE_HZ, 25 * RATE_HZ)), sound(scene));
  expect(Math.abs(found!.offsetSeconds + 12)).toBeLessThan(0.001);
  expect(found!.inverted).toBe(false);
});

test('what shares nothing is told apart: nothing, or hardly certain', async () => {
  const other = demo('guide.flac');
  const found = await lineUp(kernels, RATE_HZ, sound(scene), sound(other));
  expect(found?.certainty ?? 0).toBeLessThan(0.5);
  expect(await lineUp(kernels, RATE_HZ, sound(scene), sound(scene.subarray(0, 4000)))).toBeNull();
});
