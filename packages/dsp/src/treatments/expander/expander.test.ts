import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence, sine } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { expander, expanderGainDb, type ExpanderValues } from './expander.js';

const values = (part: Partial<ExpanderValues> & Record<string, unknown> = {}) => ({
  ...(defaultValues(expander) as unknown as ExpanderValues),
  ...part,
});
const create = (part: Partial<ExpanderValues> & Record<string, unknown> = {}, channels = 1) =>
  expander.create({ sampleRateHz: RATE_HZ, channels, kernels }, values(part));
const at = (seconds: number): number => Math.round(seconds * RATE_HZ);

describe('conformance', () => conformance(() => create({ listens: 'voice' }, 2)));

test('the curve: nothing above, the ratio below, the range at most, half the way at the threshold of a knee', () => {
  const curve = values({ thresholdDb: -40, ratio: 2, rangeDb: 15, kneeDb: 8 });
  expect(expanderGainDb(-30, curve)).toBeCloseTo(0);
  expect(expanderGainDb(-50, curve)).toBeCloseTo(-10);
  expect(expanderGainDb(-70, curve)).toBe(-15);
  // Quadratic: (ratio - 1) · knee / 8 at the threshold; it meets both straight lines at the ends of the knee.
  expect(expanderGainDb(-40, curve)).toBeCloseTo(-1);
  expect(expanderGainDb(-36, curve)).toBeCloseTo(0);
  expect(expanderGainDb(-44, curve)).toBeCloseTo(-4);
  expect(expanderGainDb(-45, values({ thresholdDb: -40, ratio: 2, kneeDb: 0 }))).toBeCloseTo(-5);
});

test.each([-46, -50, -54])('steady sound at %d dBFS comes out as the curve says', (level) => {
  const sound = sine(2000, level + 3.01, 2);
  const out = run(create({ thresholdDb: -40, ratio: 1.5, rangeDb: 30, kneeDb: 0 }), [sound])[0]!;
  expect(levelDb(out, at(1), at(1.9)) - level).toBeCloseTo((level + 40) * 0.5, 1);
});

test('a word passes whole from its beginning, and the gap after it falls gradually', () => {
  const sound = joined(noise(-60, 1, 1), sine(220, -15, 0.5), noise(-60, 1.5, 2));
  const out = run(create({ attackMs: 2 }), [sound])[0]!;
  expect(levelDb(out, at(1.01), at(1.49))).toBeCloseTo(levelDb(sound, at(1.01), at(1.49)), 1);
  const fall = (from: number): number => levelDb(sound, at(from), at(from + 0.05)) - levelDb(out, at(from), at(from + 0.05));
  expect(fall(1.53)).toBeLessThan(4);
  expect(fall(2.8)).toBeGreaterThan(7);
});

test('listening to the voice band, rumble does not hold it open', () => {
  const rumble = mixed(sine(45, -30, 2), noise(-66, 2, 3));
  const of = (listens: string): number => levelDb(run(create({ listens }), [rumble])[0]!, at(1), at(1.9)) - levelDb(rumble, at(1), at(1.9));
  expect(of('all')).toBeCloseTo(0, 1);
  expect(of('voice')).toBeLessThan(-6.5);
});

test('silence is no trap: it opens again, and nothing is NaN', () => {
  const out = run(create(), [joined(silence(1), sine(300, -12, 1))])[0]!;
  expect(out.every(Number.isFinite)).toBe(true);
  expect(levelDb(out, at(1.2), at(1.9))).toBeCloseTo(-15, 1);
});
