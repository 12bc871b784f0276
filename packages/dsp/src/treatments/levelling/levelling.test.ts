import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence, sine } from '../../testing/signals.js';
import { dbToGain } from '../../units.js';
import { defaultValues } from '../definition.js';
import { levelling } from './levelling.js';

type Values = Parameters<typeof levelling.create>[1];
const values = (part: Partial<Values> = {}) => ({ ...(defaultValues(levelling) as unknown as Values), ...part });
const create = (part: Partial<Values> = {}, channels = 1) => levelling.create({ sampleRateHz: RATE_HZ, channels, kernels }, values(part));
const at = (seconds: number): number => Math.round(seconds * RATE_HZ);

/** Something like a phrase: syllables of a harmonic tone, four a second, so loud. */
function phrase(db: number, seconds: number, hz = 150): Float32Array {
  const tone = mixed(sine(hz, db, seconds), sine(2 * hz, db - 4, seconds), sine(5 * hz, db - 10, seconds));
  return tone.map((x, n) => x * (0.25 + 0.75 * Math.sin((Math.PI * 4 * n) / RATE_HZ) ** 2));
}
const PAUSE = silence(1);
/** Phrases of 2 s with pauses of 1 s, the first after 1 s, over a floor. */
const talk = (levels: readonly number[], floorDb = -70): Float32Array => {
  const sound = joined(PAUSE, ...levels.flatMap((db, i) => [phrase(db, 2, 120 + 40 * (i % 3)), PAUSE]));
  return mixed(sound, noise(floorDb, sound.length / RATE_HZ, 5));
};
const phrases = (sound: Float32Array, count: number): number[] =>
  Array.from({ length: count }, (_, i) => levelDb(sound, at(1 + 3 * i), at(3 + 3 * i)));
const spread = (list: readonly number[]): number => Math.max(...list) - Math.min(...list);

describe('conformance', () => conformance(() => create({ targetLufs: -14, rangeDb: 12 }, 2)));

test('phrases of people 14 dB apart come to one level, from their first syllable on, and the gaps stay where they were', () => {
  const levels = [-14, -28, -20, -26, -16];
  const sound = talk(levels);
  const out = run(create({ targetLufs: -22, rangeDb: 14 }), [sound])[0]!;
  expect(spread(phrases(sound, 5))).toBeGreaterThan(13);
  expect(spread(phrases(out, 5))).toBeLessThan(2);
  const firsts = levels.map((_, i) => levelDb(out, at(1 + 3 * i), at(1.25 + 3 * i)));
  expect(spread(firsts)).toBeLessThan(3);
  for (let i = 0; i < 4; i++) {
    const [from, to] = [at(3.35 + 3 * i), at(3.85 + 3 * i)];
    expect(levelDb(out, from, to) - levelDb(sound, from, to)).toBeLessThan(1);
  }
});

test('no phrase moves by more than the range', () => {
  const sound = talk([-34, -34]);
  const out = run(create({ targetLufs: -16, rangeDb: 6 }), [sound])[0]!;
  expect(phrases(out, 2)[1]! - phrases(sound, 2)[1]!).toBeGreaterThan(5);
  expect(phrases(out, 2)[1]! - phrases(sound, 2)[1]!).toBeLessThanOrEqual(6.01);
});

test('noise without words is left as it is, however loud; so is silence', () => {
  const sound = noise(-40, 4, 3);
  const out = run(create({ targetLufs: -14, rangeDb: 12 }), [sound])[0]!;
  expect(Math.abs(levelDb(out, at(1), at(3.5)) - levelDb(sound, at(1), at(3.5)))).toBeLessThan(1);
  expect(Math.max(...run(create(), [silence(2)])[0]!)).toBe(0);
});

test('within a phrase it follows slowly: a single loud word is not flattened', () => {
  const loud = phrase(-20, 6);
  for (let n = at(3); n < at(3.3); n++) loud[n]! *= dbToGain(8);
  const sound = mixed(joined(PAUSE, loud, PAUSE), noise(-70, 8, 2));
  const out = run(create({ targetLufs: -20, rangeDb: 12, speedSeconds: 4 }), [sound])[0]!;
  const stands = (of: Float32Array): number => levelDb(of, at(4), at(4.3)) - levelDb(of, at(2.5), at(3.5));
  expect(stands(sound)).toBeGreaterThan(7);
  expect(stands(out)).toBeGreaterThan(2);
});

test('both channels get the same gain', () => {
  const left = talk([-20, -30]);
  const right = left.map((x) => 0.3 * x);
  const [a, b] = run(create({ rangeDb: 10 }, 2), [left, right]);
  for (let n = at(1.2); n < at(5); n += 997) if (Math.abs(a![n]!) > 0.01) expect(b![n]! / a![n]!).toBeCloseTo(0.3, 3);
});
