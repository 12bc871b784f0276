import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sine } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { breaths, treatedBreaths, type Breath } from './breaths.js';

const row = (startSeconds: number, endSeconds: number, part: Partial<Breath> = {}): Breath => ({
  startSeconds,
  endSeconds,
  certaintyPercent: 90,
  state: 'treat',
  ...part,
});
const values = (list: readonly Breath[], more: object = {}) => ({ ...(defaultValues(breaths) as object), breaths: list, ...more }) as never;
const create = (list: readonly Breath[], more: object = {}, startFrame = 0, channels = 1) =>
  breaths.create({ sampleRateHz: RATE_HZ, channels, kernels, startFrame }, values(list, more));
const heard = noise(-40, 3, 4);

describe('conformance', () => conformance(() => create([row(0.02, 0.2), row(0.25, 0.3)], {}, 0, 2)));

test('each breath falls by the reduction, what lies between is the same to the bit', () => {
  const out = run(create([row(0.5, 0.9), row(1.5, 2)]), [heard])[0]!;
  const at = (seconds: number): number => Math.round(seconds * RATE_HZ);
  const fall = (from: number, to: number): number => levelDb(heard, at(from), at(to)) - levelDb(out, at(from), at(to));
  for (const [from, to] of [
    [0.56, 0.84],
    [1.56, 1.94],
  ] as const)
    expect(fall(from, to)).toBeCloseTo(10, 2);
  for (const [from, to] of [
    [0, 0.5],
    [0.9, 1.5],
    [2, 3],
  ] as const)
    for (let n = Math.round(from * RATE_HZ); n < Math.round(to * RATE_HZ); n++)
      if (out[n] !== heard[n]) throw new Error(`frame ${n} was touched`);
});

test('fades make no step: a tone through a short breath moves no faster than its own slope and the fade', () => {
  const tone = sine(200, -12, 1);
  const out = run(create([row(0.3, 0.36)], { reductionDb: 40 }), [tone])[0]!;
  const steepest = (x: Float32Array): number => x.reduce((most, v, n) => (n === 0 ? 0 : Math.max(most, Math.abs(v - x[n - 1]!))), 0);
  expect(steepest(out)).toBeLessThan(steepest(tone) * 1.3);
});

test('eased in: low at its beginning, back where the word begins', () => {
  const out = run(create([row(1, 2)], { way: 'ease', reductionDb: 20, fadeMs: 20 }), [heard])[0]!;
  const fall = (from: number): number =>
    levelDb(heard, from * RATE_HZ, (from + 0.1) * RATE_HZ) - levelDb(out, from * RATE_HZ, (from + 0.1) * RATE_HZ);
  expect(fall(1.05)).toBeGreaterThan(16);
  expect(fall(1.45)).toBeCloseTo(10, 0);
  expect(fall(1.9)).toBeLessThan(2.5);
});

test('what is left, what is not sure, and what overlaps is not treated; times are those of the recording', () => {
  const list = [row(2, 2.5), row(0.5, 1), row(0.9, 1.2), row(1.5, 1.8, { state: 'leave' }), row(1.3, 1.4, { certaintyPercent: 40 })];
  expect(treatedBreaths(values(list)).map(({ startSeconds }) => startSeconds)).toEqual([0.5, 2]);
  expect(treatedBreaths(values(list, { leastPercent: 30 })).map(({ startSeconds }) => startSeconds)).toEqual([0.5, 1.3, 2]);
  const from = 40 * 2048;
  const late = run(create([row(2, 2.5)], {}, from), [heard.subarray(from)])[0]!;
  const whole = run(create([row(2, 2.5)]), [heard])[0]!;
  expect(late).toEqual(whole.subarray(from));
});

test('every breath is told with its level', () => {
  const events: { startFrame: number; levelDbfs?: number }[] = [];
  const made = breaths.create(
    { sampleRateHz: RATE_HZ, channels: 1, kernels, onEvent: (event) => events.push(event) },
    values([row(0.5, 0.9), row(1.5, 2)]),
  );
  run(made, [mixed(heard, heard)]);
  expect(events.map(({ startFrame }) => startFrame)).toEqual([24_000, 72_000]);
  for (const { levelDbfs } of events) expect(levelDbfs!).toBeCloseTo(-34, 0);
});
