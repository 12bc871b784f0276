import { levelDb, sine, toneDb } from '../testing/signals.js';
import { Resampler } from './resampler.js';

const through = (resampler: Resampler, x: Float32Array): Float32Array => {
  const out: number[] = [];
  for (const v of x) resampler.push(v, (y) => out.push(y));
  return Float32Array.from(out);
};

test.each([1, 2, 3, 4, 6])('up by %i and down again it is what it was, late by both delays', (factor) => {
  const [up, down] = [new Resampler(factor, 1), new Resampler(1, factor)];
  const x = sine(997, -12, 0.5);
  const back = through(down, through(up, x));
  const late = Math.round(up.delayFrames / factor) + down.delayFrames;
  expect(back).toHaveLength(x.length);
  const difference = Float32Array.from({ length: 20_000 }, (_, n) => back[n + late + 1000]! - x[n + 1000]!);
  expect(levelDb(difference)).toBeLessThan(-90);
});

test('what lies above half of the lower rate is taken out on the way down', () => {
  const out = through(new Resampler(1, 2), sine(15_500, -12, 0.5));
  expect(levelDb(out, 2000, 10_000)).toBeLessThan(-60);
});

test('on the way up no image is made', () => {
  const out = through(new Resampler(2, 1), sine(3000, -12, 0.5));
  // Counted at twice the rate, the tone is at half its frequency, its image at 24 kHz less that.
  expect(toneDb(out, 1500, 4000, 40_000)).toBeCloseTo(-12, 1);
  expect(toneDb(out, 22_500, 4000, 40_000)).toBeLessThan(-80);
});

test('how many have come out is known before', () => {
  for (const [up, down] of [
    [3, 1],
    [1, 4],
  ] as const)
    for (const frames of [1, 4, 4801])
      expect(through(new Resampler(up, down), new Float32Array(frames))).toHaveLength(new Resampler(up, down).madeAt(frames));
});
