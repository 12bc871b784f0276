import { BleedListener } from '../../bleed/bleed-listener.js';
import { findBleed } from '../../bleed/find-bleed.js';
import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, noise, RATE_HZ, run, silence, sine, voice } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { bleed } from './bleed.js';

const row = (startSeconds: number, endSeconds: number, state = 'treat') => ({ startSeconds, endSeconds, state });
const create = (rows: readonly object[], more: object = {}, channels = 1) =>
  bleed.create({ sampleRateHz: RATE_HZ, channels, kernels }, { ...(defaultValues(bleed) as object), bleed: rows, ...more } as never);

describe('conformance', () => conformance(() => create([row(0.05, 0.2)], { fadeMs: 20 }, 2)));

test('lowered by the reduction within, and the same to the bit without; what is left stays', () => {
  const heard = noise(-30, 3, 4);
  const out = run(create([row(0.5, 1), row(1.5, 2, 'leave')]), [heard])[0]!;
  expect(levelDb(heard, 30_000, 42_000) - levelDb(out, 30_000, 42_000)).toBeCloseTo(20, 2);
  for (const [from, to] of [
    [0, 24_000],
    [48_000, 144_000],
  ] as const)
    for (let n = from; n < to; n++) if (out[n] !== heard[n]) throw new Error(`frame ${n} was touched`);
});

test('a reduction that is moved while it is lowered is gone to without a click', () => {
  const made = create([row(0.2, 1.8)]);
  const tone = sine(500, -20, 2);
  const out = tone.slice();
  const moved = 48_000;
  for (let at = 0; at < out.length; at += 128) {
    if (at === moved) made.setParameters({ ...(defaultValues(bleed) as object), bleed: [row(0.2, 1.8)], reductionDb: 30 } as never);
    made.process([out.subarray(at, at + 128)], [out.subarray(at, at + 128)], Math.min(128, out.length - at));
  }
  const step = (a: number, b: number): number => {
    let most = 0;
    for (let n = a; n < b; n++) most = Math.max(most, Math.abs(out[n]! - out[n - 1]!));
    return most;
  };
  expect(step(moved - 100, moved + 4000)).toBeLessThan(1.05 * step(moved - 4000, moved - 100));
  expect(levelDb(tone, moved + 4000, moved + 8000) - levelDb(out, moved + 4000, moved + 8000)).toBeCloseTo(30, 2);
});

/** Two in turns: one talks while the other is silent, then the other way round. */
const [low, high] = [voice(4, 110), voice(4, 190, 9)];
const [first, second] = [joined(low, silence(5)), joined(silence(5), high)];
const listened = (sound: Float32Array): BleedListener => {
  const listener = new BleedListener(kernels, RATE_HZ);
  for (let at = 0; at < sound.length; at += 4096) listener.process(sound.subarray(at, at + 4096), Math.min(4096, sound.length - at));
  return listener;
};
/** Heard by a microphone of somebody else: later and softer. */
const mic = (own: Float32Array, other: Float32Array, seed: number): Float32Array => {
  const floor = noise(-70, 9, seed);
  return own.map((x, n) => x + 0.1 * (other[n - 150] ?? 0) + floor[n]!);
};

test('each microphone is lowered while the other one’s owner talks, and not while its own does', () => {
  const [a, b] = findBleed([listened(mic(first, second, 3)), listened(mic(second, first, 4))]);
  const within = (spans: typeof a, from: number, to: number): number =>
    spans!.reduce((sum, { startSeconds, endSeconds }) => sum + Math.max(0, Math.min(to, endSeconds) - Math.max(from, startSeconds)), 0);
  expect(within(a, 5, 9)).toBeGreaterThan(2.5);
  expect(within(a, 0, 4)).toBe(0);
  expect(within(b, 0, 4)).toBeGreaterThan(2.5);
  expect(within(b, 5, 9)).toBe(0);
});

test('one voice as loud in both microphones belongs to the one that it reaches first', () => {
  const late = first.map((_, n) => first[n - 240] ?? 0);
  const near = mic(
    first.map((x, n) => x + second[n]!),
    silence(9),
    5,
  );
  const far = mic(
    late.map((x, n) => x + second[n]!),
    silence(9),
    6,
  );
  const [a, b] = findBleed([listened(near), listened(far)]);
  const seconds = (spans: typeof a): number =>
    spans!.filter(({ startSeconds }) => startSeconds < 4).reduce((sum, one) => sum + one.endSeconds - one.startSeconds, 0);
  expect(seconds(a)).toBeLessThan(0.3);
  expect(seconds(b)).toBeGreaterThan(1.5);
});

test('one microphone alone has no bleed', () => expect(findBleed([listened(mic(first, second, 3))])).toEqual([[]]));
