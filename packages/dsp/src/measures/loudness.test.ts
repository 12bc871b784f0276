import { joined, kernels, RATE_HZ, silence, sine } from '../testing/signals.js';
import { kWeighting } from './k-weighting.js';
import { LoudnessMeter } from './loudness.js';

type Step = readonly [peakDbfs: number, seconds: number];

/** 1 kHz in every channel, through the meter in blocks. */
const tones = new Map<string, Float32Array>();
function tone([db, seconds]: Step): Float32Array {
  const key = `${db} ${seconds}`;
  if (!tones.has(key)) tones.set(key, db === -Infinity ? silence(seconds) : sine(1000, db, seconds));
  return tones.get(key)!;
}

function measure(channels: readonly (readonly Step[])[], weights?: readonly number[]): LoudnessMeter {
  const meter = new LoudnessMeter(kernels, RATE_HZ, channels.length, weights);
  const block = channels.map((steps) => joined(...steps.map(tone)));
  for (let from = 0; from < block[0]!.length; from += 4096)
    meter.process(
      block.map((b) => b.subarray(from, from + 4096)),
      Math.min(4096, block[0]!.length - from),
    );
  return meter;
}
const stereo = (...steps: Step[]): LoudnessMeter => measure([steps, steps]);

// ITU-R BS.1770-5, annex 1, tables 1 and 2: coefficients at 48 kHz.
test('the K-weighting at 48 kHz is the one of the tables', () => {
  const [shelf, low] = kWeighting(48000);
  const expected = [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585];
  expected.forEach((value, i) => expect(shelf[i]).toBeCloseTo(value, 8));
  [1, -2, 1, -1.99004745483398, 0.99007225036621].forEach((value, i) => expect(low[i]).toBeCloseTo(value, 8));
});

describe('EBU Tech 3341, minimum-requirement signals (table 1), tolerance ±0.1 LU', () => {
  const close = (value: number | undefined, expected: number): void => expect(Math.abs(value! - expected)).toBeLessThanOrEqual(0.1);

  test.each([
    [1, -23],
    [2, -33],
  ])('case %i: M, S and I of a steady tone', (_, db) => {
    const meter = stereo([db, 20]);
    close(meter.momentaryLufs, db);
    close(meter.shortTermLufs, db);
    close(meter.integratedLufs, db);
  });

  test('case 3: quiet ends', () => close(stereo([-36, 10], [-23, 60], [-36, 10]).integratedLufs, -23));
  test('case 4: quieter ends', () => close(stereo([-72, 10], [-36, 10], [-23, 60], [-36, 10], [-72, 10]).integratedLufs, -23));
  test('case 5: loud middle', () => close(stereo([-26, 20], [-20, 20.1], [-26, 20]).integratedLufs, -23));
  test('case 6: five channels', () => {
    const meter = measure([[[-28, 20]], [[-28, 20]], [[-24, 20]], [[-30, 20]], [[-30, 20]]], [1, 1, 1, 1.41, 1.41]);
    close(meter.integratedLufs, -23);
  });

  test('case 9: short-term stands still while the level alternates', () => {
    const steps = Array.from({ length: 5 }, (): Step[] => [
      [-20, 1.34],
      [-30, 1.66],
    ]).flat();
    const sound = joined(...steps.map(tone));
    const meter = new LoudnessMeter(kernels, RATE_HZ, 2);
    for (let from = 0; from < sound.length; from += 480) {
      const part = sound.subarray(from, from + 480);
      meter.process([part, part], part.length);
      if (from > 3 * RATE_HZ) close(meter.shortTermLufs, -23);
    }
  });
  test('case 10: a 3 s tone at any offset', () => {
    for (let i = 0; i < 20; i++) close(stereo([-Infinity, 0.15 * i], [-23, 3], [-Infinity, 1]).maxShortTermLufs, -23);
  });
  test('case 11: 3 s tones, live', () => {
    for (let i = 0; i < 20; i++) close(stereo([-Infinity, 0.15 * i], [-38 + i, 3], [-Infinity, 3 - 0.15 * i]).maxShortTermLufs, -38 + i);
  });
  test('case 12: momentary stands still while the level alternates', () => {
    const sound = joined(...Array.from({ length: 25 }, () => [sine(1000, -20, 0.18), sine(1000, -30, 0.22)]).flat());
    const meter = new LoudnessMeter(kernels, RATE_HZ, 2);
    for (let from = 0; from < sound.length; from += 480) {
      const part = sound.subarray(from, from + 480);
      meter.process([part, part], part.length);
      if (from > RATE_HZ) close(meter.momentaryLufs, -23);
    }
  });
  test('case 13: a 0.4 s tone at any offset', () => {
    for (let i = 0; i < 20; i++) close(stereo([-Infinity, 0.02 * i], [-23, 0.4], [-Infinity, 1]).maxMomentaryLufs, -23);
  });
  test('case 14: 0.4 s tones, live', () => {
    for (let i = 0; i < 20; i++)
      close(stereo([-Infinity, 0.02 * i], [-38 + i, 0.4], [-Infinity, 0.4 - 0.02 * i]).maxMomentaryLufs, -38 + i);
  });
});

// EBU Tech 3342, table 1, tolerance ±1 LU.
test.each([
  [
    1,
    [
      [-20, 20],
      [-30, 20],
    ],
    10,
  ],
  [
    2,
    [
      [-20, 20],
      [-15, 20],
    ],
    5,
  ],
  [
    3,
    [
      [-40, 20],
      [-20, 20],
    ],
    20,
  ],
  [
    4,
    [
      [-50, 20],
      [-35, 20],
      [-20, 20],
      [-35, 20],
      [-50, 20],
    ],
    15,
  ],
] as [number, Step[], number][])('EBU Tech 3342 case %i: loudness range', (_, steps, rangeLu) => {
  expect(Math.abs(stereo(...steps).loudnessRangeLu! - rangeLu)).toBeLessThanOrEqual(1);
});

test('silence has no loudness, and nothing is measured of nothing', () => {
  expect(stereo([-Infinity, 5]).integratedLufs).toBeUndefined();
  expect(stereo([-Infinity, 5]).loudnessRangeLu).toBeUndefined();
  expect(stereo([-Infinity, 1]).momentaryLufs).toBe(-Infinity);
});
