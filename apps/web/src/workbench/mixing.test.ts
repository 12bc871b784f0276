import { applyEdit, createDocument, type Edit } from '@euphonos/engine';
import type { Player } from '../audio/player.js';
import type { Passage } from '../passage/passage.js';
import { Mixing } from './mixing.js';

const of = { trackId: 'track-1' };
const split = applyEdit(createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 2 }), {
  type: 'split-tracks',
  ...of,
  channels: 2,
});
const other = (...edits: Edit[]) => [edits.reduce(applyEdit, split).tracks[1]!];
const settle = () => new Promise((resolve) => setImmediate(resolve));

function made() {
  const player = { setTrackGain: jest.fn(), setRest: jest.fn(), setWhole: jest.fn() };
  const passage = { setRest: jest.fn(), restChunk: jest.fn() };
  const troubles: unknown[] = [];
  return {
    mixing: new Mixing(player as unknown as Player, passage as unknown as Passage, 48_000, (error) => troubles.push(error)),
    player,
    passage,
    troubles,
  };
}

test('other tracks are rendered with their channels, clips and levels, and fed to the player', async () => {
  const { mixing, player, passage } = made();
  const others = other(
    { type: 'set-track', trackId: 'track-1.2', gainDb: -6 },
    { type: 'cut-spans', trackId: 'track-1.2', spans: [{ startFrame: 0, endFrame: 48_000 }], close: true },
    { type: 'set-noise', trackId: 'track-1.2', noise: { kind: 'passages', spans: [{ startFrame: 0, endFrame: 40_000 }] } },
  );
  mixing.set(-3, others, split.chain);
  await settle();
  expect(player.setTrackGain).toHaveBeenCalledWith(-3);
  expect(passage.setRest).toHaveBeenCalledWith([
    expect.objectContaining({
      gainDb: -6,
      source: expect.objectContaining({ reel: [expect.objectContaining({ channels: [1] })], lengthFrames: 480_000 }),
      noise: [{ startFrame: 0, endFrame: 40_000 }],
    }),
  ]);
  expect(player.setRest).toHaveBeenCalledWith(expect.objectContaining({ lengthFrames: 432_000 }));
});

test('the same tracks are not rendered again; none are let go at once; the chain on the whole is told when it changes', async () => {
  const { mixing, player, passage } = made();
  const others = other();
  mixing.set(0, others, split.chain);
  mixing.set(0, [...others], split.chain);
  await settle();
  expect(passage.setRest).toHaveBeenCalledTimes(1);
  expect(player.setWhole).toHaveBeenCalledTimes(1);
  const whole = applyEdit(split, { type: 'add-treatment', trackId: 'whole', kind: 'high-pass', treatmentId: 'w' }).chain;
  mixing.set(0, [], whole);
  expect(player.setRest).toHaveBeenLastCalledWith(null);
  expect(player.setWhole).toHaveBeenLastCalledWith(whole);
});

test('a kept profile is fetched; one that is gone is told, and the track is not heard untreated unnoticed', async () => {
  globalThis.fetch = jest.fn(async () => ({
    ok: false,
    status: 404,
    json: async () => ({ code: 'not-found', message: 'There is no such noise profile.' }),
  })) as unknown as typeof fetch;
  const { mixing, player, passage, troubles } = made();
  mixing.set(0, other({ type: 'set-noise', trackId: 'track-1.2', noise: { kind: 'kept', profileId: 'p', name: 'Room' } }), split.chain);
  await settle();
  await settle();
  expect(String(troubles[0])).toContain('no such noise profile');
  expect(passage.setRest).not.toHaveBeenCalled();
  expect(player.setRest).not.toHaveBeenCalled();
});

test('of two wishes the later one counts', async () => {
  const { mixing, passage } = made();
  mixing.set(0, other(), split.chain);
  mixing.set(0, [], split.chain);
  await settle();
  expect(passage.setRest).not.toHaveBeenCalled();
});
