import { TruePeakMeter } from '../measures/true-peak-meter.js';
import { conformance } from '../testing/conformance.js';
import { joined, kernels, noise, RATE_HZ, run, sine } from '../testing/signals.js';
import { TruePeakLimiter } from './true-peak-limiter.js';

const create = (gainDb: number, ceilingDbtp: number, channels = 2): TruePeakLimiter =>
  new TruePeakLimiter({ sampleRateHz: RATE_HZ, channels, kernels }, { gainDb, ceilingDbtp });

function truePeak(samples: Float32Array): number {
  const meter = new TruePeakMeter(kernels, 1);
  meter.process([samples], samples.length);
  meter.finish();
  return meter.truePeakDbtp;
}

describe('conformance', () => conformance(() => create(3, -6)));

test('nothing over the ceiling: bursts, high tones between the samples, noise', () => {
  const sound = joined(noise(-20, 0.3, 1), sine(RATE_HZ / 4, -2, 0.2, 45), noise(-9, 0.2, 2), sine(60, -1, 0.3), noise(-30, 0.2, 3));
  const out = run(create(4, -3, 1), [sound])[0]!;
  expect(truePeak(out)).toBeLessThan(-3 + 0.1);
});

test('what stays under the ceiling is only amplified', () => {
  const sound = noise(-40, 0.5, 4);
  const limiter = create(6, -1, 1);
  const out = run(limiter, [sound])[0]!;
  sound.forEach((x, n) => expect(Math.abs(out[n]! - x * 10 ** 0.3)).toBeLessThan(1e-7));
  expect(limiter.mostReductionDb).toBeLessThan(1e-6);
  expect(limiter.limitedFrames).toBe(0);
});

test('says how much it limited: a steady tone 6 dB over', () => {
  const limiter = create(0, -9, 1);
  run(limiter, [sine(500, -3, 1)]);
  expect(Math.abs(limiter.mostReductionDb - 6)).toBeLessThan(0.1);
  expect(limiter.limitedFrames / RATE_HZ).toBeCloseTo(1, 1);
});

test('both channels get the same gain', () => {
  const [left, right] = run(create(0, -6), [sine(400, -1, 0.5), sine(400, -20, 0.5)]);
  for (let n = 2400; n < 20000; n += 11) if (Math.abs(left![n]!) > 0.05) expect(right![n]! / left![n]!).toBeCloseTo(10 ** (-19 / 20), 3);
});
