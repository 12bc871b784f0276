import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence, sine } from '../../testing/signals.js';
import { dbToGain, gainToDb } from '../../units.js';
import { defaultValues } from '../definition.js';
import { releaseStageMs } from './compressor-processor.js';
import { compressor } from './compressor.js';
import { downwardGainDb, upwardGainDb } from './curve.js';
import type { CompressorValues } from './settings.js';

type Part = Partial<CompressorValues> & Record<string, unknown>;
const values = (part: Part = {}) => ({ ...(defaultValues(compressor) as unknown as CompressorValues), ...part });
const create = (part: Part = {}, channels = 1) => compressor.create({ sampleRateHz: RATE_HZ, channels, kernels }, values(part));
const at = (seconds: number): number => Math.round(seconds * RATE_HZ);
/** A sound whose magnitude is the same in every frame: its level is known without averaging. */
const level = (dbfs: number, seconds: number): Float32Array =>
  Float32Array.from({ length: at(seconds) }, (_, n) => (n % 2 === 0 ? 1 : -1) * dbToGain(dbfs));
const gainsDb = (out: Float32Array, sound: Float32Array): number[] => Array.from(out, (x, n) => gainToDb(Math.abs(x / sound[n]!)));

describe('conformance, loud down', () => conformance(() => create({ listens: 'voice', releaseMs: 900 }, 2)));
describe('conformance, quiet up', () => conformance(() => create({ direction: 'up', thresholdDb: -20 }, 2)));

describe('the static curve (Giannoulis, Massberg & Reiss 2012, eq. 4)', () => {
  /** Their equation as it is printed: the output level of a level that comes in. */
  const printed = (x: number, T: number, R: number, W: number): number => {
    if (2 * (x - T) < -W) return x;
    if (2 * Math.abs(x - T) <= W) return x + ((1 / R - 1) * (x - T + W / 2) ** 2) / (2 * W);
    return T + (x - T) / R;
  };
  test.each([
    [-24, 2, 6],
    [-30, 4, 12],
    [-18, 20, 0.5],
    [-40, 1.5, 24],
  ])('threshold %d dBFS, %d:1, knee %d dB: sound of every level comes out within 0.1 dB of it', (thresholdDb, ratio, kneeDb) => {
    const part = { thresholdDb, ratio, kneeDb };
    for (let dbfs = -60; dbfs <= 0; dbfs += 5) {
      expect(downwardGainDb(dbfs, values(part))).toBeCloseTo(printed(dbfs, thresholdDb, ratio, kneeDb) - dbfs, 9);
      const sound = level(dbfs, 0.2);
      const out = run(create(part), [sound])[0]!;
      expect(Math.abs(gainsDb(out, sound)[at(0.18)]! + dbfs - printed(dbfs, thresholdDb, ratio, kneeDb))).toBeLessThan(0.1);
    }
  });
  test('a sine, whose magnitude swings, is lowered as its peak says, within 0.1 dB', () => {
    for (const [hz, dbfs] of [
      [1000, -12],
      [2000, -6],
    ] as const) {
      const sound = sine(hz, dbfs, 1.5);
      const out = run(create({ ratio: 2, kneeDb: 0 }), [sound])[0]!;
      const fall = levelDb(sound, at(1), at(1.4)) - levelDb(out, at(1), at(1.4));
      expect(Math.abs(fall - (dbfs + 24) / 2)).toBeLessThan(0.1);
    }
  });
  test('quiet up: the other side, no more than the range, and nothing of the room', () => {
    const part = values({ thresholdDb: -20, ratio: 2, kneeDb: 0, rangeDb: 6, floorDbfs: -50 });
    expect([-10, -20, -26, -32, -45, -56, -62, -100].map((x) => upwardGainDb(x, x, part))).toEqual([0, 0, 3, 6, 6, 3, 0, 0]);
    for (const dbfs of [-10, -26, -45, -62]) {
      const sound = level(dbfs, 0.6);
      const out = run(create({ ...part, direction: 'up' }), [sound])[0]!;
      expect(Math.abs(gainsDb(out, sound)[at(0.55)]! - upwardGainDb(dbfs, dbfs, part))).toBeLessThan(0.1);
    }
  });
});

test('quiet up lifts a quiet voice, whose magnitude goes through zero, and leaves the room below it', () => {
  const sound = mixed(joined(silence(1), sine(220, -26, 1), silence(1), sine(220, -6, 1), silence(0.5)), noise(-66, 4.5, 9));
  const out = run(create({ direction: 'up', thresholdDb: -12, ratio: 3, rangeDb: 9, floorDbfs: -45 }), [sound])[0]!;
  const up = (from: number, to: number): number => levelDb(out, at(from), at(to)) - levelDb(sound, at(from), at(to));
  expect(up(1.3, 1.9)).toBeGreaterThan(7);
  expect(up(3.2, 3.9)).toBeLessThan(1);
  expect(up(0.2, 0.9)).toBeLessThan(0.5);
  expect(up(2.4, 2.9)).toBeLessThan(0.5);
});

describe('times: 63 % of the way', () => {
  const part = (attackMs: number, releaseMs: number) => ({ thresholdDb: -30, ratio: 4, kneeDb: 0, attackMs, releaseMs });
  test.each([
    [6, 60],
    [1, 200],
    [20, 30],
    [40, 1000],
  ])('attack %d ms, release %d ms: within 5 %%', (attackMs, releaseMs) => {
    const sound = joined(level(-40, 0.2), level(-10, 0.5), level(-40, 3));
    const gains = gainsDb(run(create(part(attackMs, releaseMs)), [sound])[0]!, sound);
    const share = 1 - Math.exp(-1);
    const down = gains[at(0.69)]!;
    const attack = gains.findIndex((gain, n) => n > at(0.2) && gain <= share * down) - at(0.2);
    const release = gains.findIndex((gain, n) => n > at(0.7) && gain >= (1 - share) * down) - at(0.7);
    expect(Math.abs(attack / (attackMs * 48) - 1)).toBeLessThan(0.05);
    expect(Math.abs(release / (releaseMs * 48) - 1)).toBeLessThan(0.05);
  });
  test('a release no longer than the attack is as long as that at least', () => {
    expect(releaseStageMs(5, 100)).toBeLessThan(0.1);
    expect(releaseStageMs(60, 6)).toBeGreaterThan(50);
  });
});

test('make-up comes afterwards, mix leaves some of it as it came, and both glide', () => {
  const sound = level(-12, 1);
  const gainOf = (part: Part): number => gainsDb(run(create(part), [sound])[0]!, sound)[at(0.9)]!;
  expect(gainOf({ kneeDb: 0, makeUpDb: 4 })).toBeCloseTo(-6 + 4, 1);
  expect(gainOf({ kneeDb: 0, mixPercent: 0, makeUpDb: 9 })).toBeCloseTo(0, 3);
  expect(gainOf({ kneeDb: 0, mixPercent: 50 })).toBeCloseTo(gainToDb(0.5 + 0.5 * dbToGain(-6)), 1);
  const moving = create({ kneeDb: 0 });
  const tone = sine(500, -12, 1);
  const out = new Float32Array(tone.length);
  for (let n = 0; n < tone.length; n += 480) {
    if (n === at(0.5)) expect(moving.setParameters(values({ kneeDb: 0, makeUpDb: 12, mixPercent: 80 }))).toBe(true);
    moving.process([tone.subarray(n, n + 480)], [out.subarray(n, n + 480)], 480);
  }
  const steps = out.map((x, n) => Math.abs(x - (out[n - 1] ?? 0)));
  expect(Math.max(...steps.subarray(at(0.49), at(0.52)))).toBeLessThan(1.5 * Math.max(...steps.subarray(at(0.8))));
});

test('both channels get the same gain, that of the louder one', () => {
  const [left, right] = [level(-10, 0.5), level(-50, 0.5)];
  const [, out] = run(create({}, 2), [left, right]);
  expect(gainsDb(out!, right)[at(0.4)]!).toBeCloseTo(downwardGainDb(-10, values()), 1);
});

test('listening to the voice band, rumble does not push the voice down', () => {
  const sound = mixed(sine(40, -6, 2), sine(800, -40, 2));
  const of = (listens: string): number => levelDb(run(create({ listens }), [sound])[0]!, at(1), at(1.9)) - levelDb(sound, at(1), at(1.9));
  expect(of('all')).toBeLessThan(-6);
  expect(of('voice')).toBeGreaterThan(-0.6);
});

test('words come nearer to each other; silence is no trap', () => {
  const sound = mixed(joined(silence(0.5), sine(300, -6, 1), silence(0.5), sine(300, -26, 1), silence(0.5)), noise(-70, 3.5, 1));
  const out = run(create({ thresholdDb: -30, ratio: 3 }), [sound])[0]!;
  expect(out.every(Number.isFinite)).toBe(true);
  const apart = (of: Float32Array): number => levelDb(of, at(0.8), at(1.4)) - levelDb(of, at(2.3), at(2.9));
  expect(apart(sound)).toBeCloseTo(20, 1);
  expect(apart(out)).toBeLessThan(9);
});
