import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, run } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { loweredPauses, pauses, treatedPauses, type Pause } from './pauses.js';

const row = (startSeconds: number, endSeconds: number, state: Pause['state'] = 'treat'): Pause => ({ startSeconds, endSeconds, state });
const values = (list: readonly Pause[], more: object = {}) => ({ ...(defaultValues(pauses) as object), pauses: list, ...more }) as never;
const create = (list: readonly Pause[], more: object = {}, channels = 1) =>
  pauses.create({ sampleRateHz: RATE_HZ, channels, kernels }, values(list, more));
const heard = noise(-40, 3, 4);

describe('conformance', () => conformance(() => create([row(0.02, 0.25)], { shortestMs: 100, afterWordMs: 20, beforeWordMs: 10 }, 2)));

test('a pause falls by the reduction, but for what is kept after and before the words, which is the same to the bit', () => {
  const out = run(create([row(0.5, 1.5)]), [heard])[0]!;
  expect(levelDb(heard, 40_000, 60_000) - levelDb(out, 40_000, 60_000)).toBeCloseTo(12, 2);
  for (const [from, to] of [
    [0, 0.65],
    [1.4, 3],
  ] as const)
    for (let n = Math.round(from * RATE_HZ); n < Math.round(to * RATE_HZ); n++)
      if (out[n] !== heard[n]) throw new Error(`frame ${n} was touched`);
});

test('short ones and excepted ones are left, overlapping ones counted once', () => {
  const list = [row(2, 2.9), row(0.2, 0.5), row(0.8, 1.5, 'leave'), row(2.4, 3)];
  expect(loweredPauses(values(list))).toEqual([{ startSeconds: 2.15, endSeconds: 2.8 }]);
  expect(loweredPauses(values(list, { shortestMs: 200, afterWordMs: 0, beforeWordMs: 0 })).map(({ startSeconds }) => startSeconds)).toEqual(
    [0.2, 2],
  );
  // Nothing is left to lower when as much is kept as there is.
  expect(loweredPauses(values([row(1, 1.5)], { afterWordMs: 300, beforeWordMs: 250 }))).toEqual([]);
});

test('moving the reduction needs no new processor, moving what is kept does', () => {
  const made = create([row(0.5, 1.5)]);
  expect(made.setParameters(values([row(0.5, 1.5)], { reductionDb: 20 }))).toBe(true);
  expect(made.setParameters(values([row(0.5, 1.5)], { afterWordMs: 10 }))).toBe(false);
});

test('cut, shortened or filled they are left to an edit of the clips: heard is what was there', () => {
  for (const way of ['close', 'gap', 'shorten', 'tone']) {
    expect(loweredPauses(values([row(0.5, 1.5)], { way }))).toEqual([]);
    expect(treatedPauses(values([row(0.5, 1.5)], { way }))).toEqual([{ startSeconds: 0.65, endSeconds: 1.4 }]);
  }
});

test('it never opens below where it closes', () => {
  const moved = (name: 'openDbfs' | 'closeDbfs', value: number) =>
    pauses.reconcile!({ ...(values([]) as object), [name]: value } as never, name);
  expect(moved('openDbfs', -60)).toMatchObject({ openDbfs: -60, closeDbfs: -60 });
  expect(moved('closeDbfs', -30)).toMatchObject({ openDbfs: -30, closeDbfs: -30 });
});
