import { probeSweep, roundTripFrames } from './round-trip.js';

test('the way round is found to the frame, however soft the sweep comes back; where it does not come back, nothing is found', () => {
  const rate = 16_000;
  const sweep = probeSweep(rate);
  let state = 1;
  const next = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 31 - 1;
  const room = Float32Array.from({ length: 0.4 * rate }, () => 0.002 * next());
  expect(roundTripFrames(sweep, room)).toBeNull();
  const heard = room.slice();
  sweep.forEach((x, n) => (heard[777 + n]! += 0.05 * x));
  expect(roundTripFrames(sweep, heard)).toBe(777);
});
