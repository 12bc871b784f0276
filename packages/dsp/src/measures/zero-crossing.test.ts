import { sine } from '../testing/signals.js';
import { nearestZeroCrossing } from './zero-crossing.js';

/** 480 Hz at 48 kHz: the sign changes every 50 frames, between 49 and 50, 99 and 100 … */
const tone = sine(480, -6, 0.1, 2);

test('the nearest change of sign, before or after', () => {
  expect(nearestZeroCrossing([tone], 1003, 40)).toBe(1000);
  expect(nearestZeroCrossing([tone], 1040, 40)).toBe(1050);
  expect(nearestZeroCrossing([tone], 1050, 40)).toBe(1050);
});

test('none within reach: where it was; of two channels their sum counts', () => {
  expect(nearestZeroCrossing([tone], 1024, 5)).toBe(1024);
  expect(nearestZeroCrossing([tone, tone.map((x) => -2 * x)], 1003, 40)).toBe(1000);
  expect(nearestZeroCrossing([tone, new Float32Array(tone.length).fill(5)], 1003, 40)).toBe(1003);
  expect(nearestZeroCrossing([tone], 0, 3)).toBe(0);
});
