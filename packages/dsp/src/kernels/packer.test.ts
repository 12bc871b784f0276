import { kernels, levelDb, noise, randomNumbers, sine, toneDb } from '../testing/signals.js';
import { Packer } from './packer.js';

/** By the definition: round(x 2^23), halves upwards, held within 24 bits. */
const whole = (x: number): number => Math.max(-(2 ** 23), Math.min(2 ** 23 - 1, Math.floor(x * 2 ** 23 + 0.5)));
const step = 2 ** -23;
const PLAIN = { bits: 24, dither: false } as const;
const odd = [0, 1, -1, 1.5, -1.5, 0.5 * step, -0.5 * step, 0.49999997 * step, 1.5 * step, 1 - step, -1 + step, Infinity, -Infinity];

test.each([1, 2, 3])('in %d channels every sample is the nearest step, least byte first, channel beside channel', (channels) => {
  const lanes = Array.from({ length: channels }, (_, c) => {
    const lane = noise(-3, 0.2, 1 + c).subarray(0, 9001);
    lane.set(odd, 5 + c);
    return lane;
  });
  const target = Buffer.alloc(3 * channels * 9001 + 7, 0x55);
  new Packer(kernels, channels, PLAIN).pack(lanes, 1, 9000, target, 4);
  const read: number[] = [];
  for (let at = 4; at < 4 + 3 * channels * 9000; at += 3) read.push(target.readIntLE(at, 3));
  expect(read).toEqual(Array.from({ length: 9000 * channels }, (_, i) => whole(lanes[i % channels]![1 + Math.floor(i / channels)]!)));
  expect([target[3], target[4 + 3 * channels * 9000]]).toEqual([0x55, 0x55]);
});

test('what is no number is written as silence', () => {
  const target = new Uint8Array(12);
  new Packer(kernels, 1, PLAIN).pack([Float32Array.of(NaN, 0.25, NaN, 0.25)], 0, 4, target, 0);
  expect([...target]).toEqual([0, 0, 0, 0, 0, 0x20, 0, 0, 0, 0, 0, 0x20]);
});

describe('dithered', () => {
  const STEP = 2 ** -15;
  const packed = (sound: Float32Array, bits: 16 | 24 = 16, dither = true): Float32Array => {
    const width = bits / 8;
    const target = Buffer.alloc(width * sound.length);
    // In pieces: what comes out does not depend on them.
    const packer = new Packer(kernels, 1, { bits, dither });
    for (let at = 0; at < sound.length; at += 5000) packer.pack([sound], at, Math.min(5000, sound.length - at), target, width * at);
    return Float32Array.from({ length: sound.length }, (_, n) => target.readIntLE(width * n, width) * 2 ** (1 - bits));
  };
  const errorOf = (sound: Float32Array, out: Float32Array): Float32Array => out.map((x, n) => (x - sound[n]!) / STEP);
  const correlation = (a: Float32Array, b: Float32Array): number => {
    let [ab, aa, bb] = [0, 0, 0];
    for (let n = 0; n < a.length; n++) {
      ab += a[n]! * b[n]!;
      aa += a[n]! * a[n]!;
      bb += b[n]! * b[n]!;
    }
    return ab / Math.sqrt(aa * bb);
  };

  // Lipshitz, Wannamaker & Vanderkooy 1992, section 4: with triangular noise of two steps the error has the mean 0 and the variance 1/4
  // (in steps squared: 1/6 of the noise, 1/12 of the rounding), whatever the sound is.
  test.each([
    ['a sine of a few steps', sine(997, -84, 4)],
    ['noise', noise(-40, 4)],
    ['next to nothing', sine(50, -110, 4)],
  ])('the error of %s has mean 0 and variance 1/4', (_, sound) => {
    const error = errorOf(sound, packed(sound));
    expect(Math.abs(error.reduce((sum, x) => sum + x, 0) / error.length)).toBeLessThan(0.005);
    expect(error.reduce((sum, x) => sum + x * x, 0) / error.length).toBeCloseTo(0.25, 2);
    expect(Math.abs(correlation(error, sound))).toBeLessThan(0.01);
    // Nor with the sound a sample ago, its magnitude, or its square.
    expect(Math.abs(correlation(error.subarray(1), sound.subarray(0, -1)))).toBeLessThan(0.01);
    const energy = sound.map((x) => x * x);
    const mean = energy.reduce((sum, x) => sum + x, 0) / energy.length;
    expect(
      Math.abs(
        correlation(
          error.map((x) => x * x - 0.25),
          energy.map((x) => x - mean),
        ),
      ),
    ).toBeLessThan(0.015);
  });

  test('the error is white: no band of it stands out', () => {
    const sound = sine(997, -80, 2);
    const error = errorOf(sound, packed(sound));
    // Two seconds of white noise have 44 dB less in a bin; by chance one has ten times that.
    for (const hz of [997, 1994, 2991, 60, 5000, 12_000, 20_000]) expect(toneDb(error, hz)).toBeLessThan(levelDb(error) - 34);
    const bands = Array.from({ length: 8 }, (_, band) => {
      let sum = 0;
      for (let k = 0; k < 30; k++) sum += 10 ** (toneDb(error, 1500 + 3000 * band + 7.3 * k) / 10);
      return 10 * Math.log10(sum);
    });
    expect(Math.max(...bands) - Math.min(...bands)).toBeLessThan(4);
  });

  test('without it a soft sine is distorted; with it there are no harmonics', () => {
    const sound = sine(997, -93, 4);
    const harmonics = (dither: boolean): number => {
      const out = packed(sound, 16, dither);
      const power = [3, 5, 7, 9].reduce((sum, k) => sum + 10 ** (toneDb(out, 997 * k) / 10), 0);
      return 10 * Math.log10(power) - toneDb(out, 997);
    };
    expect(harmonics(false)).toBeGreaterThan(-12);
    expect(harmonics(true)).toBeLessThan(-35);
  });

  test.each([16, 24] as const)('what lies on the steps of %i bits stays, silence too', (bits) => {
    const random = randomNumbers(4);
    const whole = Float32Array.from({ length: 20_000 }, (_, n) =>
      n < 1000 ? 0 : Math.round(Math.max(-1, Math.min(0.99, random())) * 2 ** (bits - 1)) * 2 ** (1 - bits),
    );
    expect(packed(whole, bits)).toEqual(whole);
  });

  test('full scale is held, and what is no number is silence', () => {
    const out = packed(Float32Array.of(1.2, -1.2, NaN, 1, -1));
    expect([...out]).toEqual([1 - STEP, -1, 0, 1 - STEP, -1]);
  });

  test('the same every time', () => {
    const sound = noise(-20, 0.5);
    expect(packed(sound)).toEqual(packed(sound));
  });
});
