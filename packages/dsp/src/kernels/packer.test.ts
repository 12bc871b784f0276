import { kernels, noise } from '../testing/signals.js';
import { Packer24 } from './packer.js';

/** By the definition: round(x 2^23), halves upwards, held within 24 bits. */
const whole = (x: number): number => Math.max(-(2 ** 23), Math.min(2 ** 23 - 1, Math.floor(x * 2 ** 23 + 0.5)));
const step = 2 ** -23;
const odd = [0, 1, -1, 1.5, -1.5, 0.5 * step, -0.5 * step, 0.49999997 * step, 1.5 * step, 1 - step, -1 + step, Infinity, -Infinity];

test.each([1, 2, 3])('in %d channels every sample is the nearest step, least byte first, channel beside channel', (channels) => {
  const lanes = Array.from({ length: channels }, (_, c) => {
    const lane = noise(-3, 0.2, 1 + c).subarray(0, 9001);
    lane.set(odd, 5 + c);
    return lane;
  });
  const target = Buffer.alloc(3 * channels * 9001 + 7, 0x55);
  new Packer24(kernels, channels).pack(lanes, 1, 9000, target, 4);
  const read: number[] = [];
  for (let at = 4; at < 4 + 3 * channels * 9000; at += 3) read.push(target.readIntLE(at, 3));
  expect(read).toEqual(Array.from({ length: 9000 * channels }, (_, i) => whole(lanes[i % channels]![1 + Math.floor(i / channels)]!)));
  expect([target[3], target[4 + 3 * channels * 9000]]).toEqual([0x55, 0x55]);
});

test('what is no number is written as silence', () => {
  const target = new Uint8Array(12);
  new Packer24(kernels, 1).pack([Float32Array.of(NaN, 0.25, NaN, 0.25)], 0, 4, target, 0);
  expect([...target]).toEqual([0, 0, 0, 0, 0, 0x20, 0, 0, 0, 0, 0, 0x20]);
});
