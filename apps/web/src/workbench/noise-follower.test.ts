import { parseChain, type NoiseProfile } from '@euphonos/dsp';
import type { NoiseSource } from '@euphonos/engine';
import { NoiseFollower } from './noise-follower.js';

const passages = (...ends: number[]): NoiseSource => ({
  kind: 'passages',
  spans: ends.map((endFrame) => ({ startFrame: endFrame - 20_000, endFrame })),
});
const chain = (cutoffHz = 80) => parseChain({ treatments: [{ kind: 'high-pass', cutoffHz }, { kind: 'noise-reduction' }] });
const named = (name: string) => ({ name }) as unknown as NoiseProfile;

let asked: { profile: jest.Mock; kept: jest.Mock; take: jest.Mock; onTrouble: jest.Mock };
let follower: NoiseFollower;
beforeEach(() => {
  jest.useFakeTimers();
  asked = {
    profile: jest.fn(async (spans: unknown[]) => named(`of ${spans.length}`)),
    kept: jest.fn(async (id: string) => named(id)),
    take: jest.fn(),
    onTrouble: jest.fn(),
  };
  follower = new NoiseFollower(asked);
});
afterEach(() => {
  follower.close();
  jest.useRealTimers();
});
const rest = () => jest.advanceTimersByTimeAsync(400);

test('passages are profiled at once, another one more as well, and none takes the profile away', async () => {
  follower.follow(passages(30_000), chain());
  follower.follow(passages(30_000, 90_000), chain());
  await rest();
  expect(asked.profile).toHaveBeenCalledTimes(2);
  expect(asked.take.mock.calls).toEqual([[named('of 2')]]);
  follower.follow(null, chain());
  expect(asked.take).toHaveBeenLastCalledWith(null);
});

test('a control before the noise reduction is profiled when it rests; behind a kept profile it changes nothing', async () => {
  follower.follow(passages(30_000), chain());
  await rest();
  for (const cutoff of [90, 100, 110]) follower.follow(passages(30_000), chain(cutoff));
  expect(asked.profile).toHaveBeenCalledTimes(1);
  await rest();
  expect(asked.profile).toHaveBeenCalledTimes(2);
  follower.follow({ kind: 'kept', profileId: 'p1', name: 'Room' }, chain());
  follower.follow({ kind: 'kept', profileId: 'p1', name: 'Room' }, chain(120));
  await rest();
  expect(asked.kept.mock.calls).toEqual([['p1']]);
  expect(asked.take).toHaveBeenLastCalledWith(named('p1'));
});

test('a profile that cannot be read is told, and asked for again', async () => {
  asked.kept.mockRejectedValueOnce(new Error('gone'));
  follower.follow({ kind: 'kept', profileId: 'p1', name: 'Room' }, chain());
  await rest();
  expect(asked.onTrouble).toHaveBeenCalledTimes(1);
  // The profile of before is not weighed by under the new name.
  expect(asked.take).toHaveBeenLastCalledWith(null);
  follower.follow({ kind: 'kept', profileId: 'p1', name: 'Room' }, chain());
  await rest();
  expect(asked.take).toHaveBeenCalledWith(named('p1'));
});
