import { applyEdit, createDocument, type Edit, type SessionDocument } from '@euphonos/engine';
import type { PlayedMix } from '../audio/supply.js';
import type { Player } from '../audio/player.js';
import type { Passage } from '../passage/passage.js';
import type { MemoryNews } from '../passage/chain-memory.js';
import type { WholeRequest } from '../passage/whole-memory.js';
import type { WholeMix } from '../passage/mixed-sum.js';
import type { RestTrack } from '../passage/rest-sound.js';
import { Mixing, type Heard } from './mixing.js';

const second = { trackId: 'track-1.2' };
const split = applyEdit(createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 2 }), {
  type: 'split-tracks',
  trackId: 'track-1',
  channels: 2,
});
const after = (...edits: Edit[]): SessionDocument => edits.reduce(applyEdit, split);
const settle = () => new Promise((resolve) => setImmediate(resolve));
const heard = (document: SessionDocument, more: Partial<Heard> = {}): Heard => ({
  document,
  own: document.tracks[0]!,
  together: true,
  solo: [],
  ...more,
});

function made() {
  const player = {
    setTrackGain: jest.fn(),
    setMix: jest.fn<void, [PlayedMix]>(),
    setWhole: jest.fn(),
    setWholeMemories: jest.fn(),
    setWholeKnown: jest.fn(),
    playing: false,
    awaited: 0,
    exact: true,
  };
  const passage = {
    setRest: jest.fn<void, [RestTrack[]]>(),
    restChunk: jest.fn(),
    wholeMemories: jest.fn(async (_request: WholeRequest, { index }: { index: number }): Promise<MemoryNews> => ({
      spacingFrames: 24_576,
      held: index === 1 ? [[1, { chain: [], turn: [] }]] : [],
      prepared: null,
      nextFrame: 480_000,
      passed: true,
      done: index > 1,
    })),
    wholeProfile: jest.fn(async (_mix: WholeMix) => ({ channels: [] })),
  };
  const troubles: unknown[] = [];
  return {
    mixing: new Mixing(player as unknown as Player, passage as unknown as Passage, 48_000, (error) => troubles.push(error)),
    player,
    passage,
    troubles,
    latest: () => player.setMix.mock.lastCall![0],
  };
}

test('other tracks are rendered with their channels, clips and levels, and fed to the player', async () => {
  const { mixing, player, passage, latest } = made();
  mixing.set(
    heard(
      after(
        { type: 'set-track', trackId: 'track-1', gainDb: -3 },
        { type: 'set-track', ...second, gainDb: -6 },
        { type: 'cut-spans', ...second, spans: [{ startFrame: 0, endFrame: 48_000 }], close: true },
        { type: 'set-noise', ...second, noise: { kind: 'passages', spans: [{ startFrame: 0, endFrame: 40_000 }] } },
      ),
    ),
  );
  await settle();
  expect(player.setTrackGain).toHaveBeenCalledWith(-3);
  expect(passage.setRest).toHaveBeenCalledWith([
    expect.objectContaining({
      source: expect.objectContaining({ reel: [expect.objectContaining({ channels: [1] })], lengthFrames: 480_000 }),
      noise: [{ startFrame: 0, endFrame: 40_000 }],
    }),
  ]);
  const gain = expect.closeTo(10 ** (-6 / 20), 6) as number;
  expect(latest()).toMatchObject({ channels: 1, beside: [{ id: 'track-1.2', lengthFrames: 432_000, channels: 1, gains: [gain, gain] }] });
});

test('level, pan, mute and solo make no new sound; a change of its chain does', async () => {
  const { mixing, latest, player } = made();
  const document = split;
  mixing.set(heard(document));
  await settle();
  const [{ key }] = latest().beside as [{ key: string }];
  mixing.set(heard(after({ type: 'set-track', ...second, pan: 1, muted: true })));
  await settle();
  expect(latest()).toMatchObject({ channels: 1, beside: [{ key, gains: [0, 0] }] });
  mixing.set(heard(after({ type: 'set-track', ...second, pan: 1 })));
  await settle();
  expect(latest()).toMatchObject({
    channels: 2,
    ownGains: [1, 1],
    beside: [{ key, gains: [expect.closeTo(0, 6), expect.closeTo(Math.SQRT2, 6)] }],
  });
  mixing.set(heard(document, { solo: ['track-1.2'] }));
  await settle();
  expect(player.setTrackGain).toHaveBeenLastCalledWith(-Infinity);
  expect(latest().beside[0]!.gains).toEqual([1, 1]);
  mixing.set(heard(after({ type: 'remove-treatment', ...second, treatmentId: 't1' })));
  await settle();
  expect(latest().beside[0]!.key).not.toBe(key);
});

test('a track by itself is heard as it is, without the chain on the whole; none are let go at once', async () => {
  const { mixing, player, latest } = made();
  const treated = after({ type: 'add-treatment', trackId: 'whole', kind: 'high-pass', treatmentId: 'w' });
  mixing.set(heard(treated));
  expect(player.setWhole).toHaveBeenLastCalledWith(treated.chain, null);
  mixing.set(heard(treated, { together: false }));
  await settle();
  expect(latest()).toEqual({ channels: 1, ownGains: [1, 1], beside: [], lengthFrames: 480_000 });
  expect(player.setWhole).toHaveBeenLastCalledWith({ treatments: [] }, null);
  expect(player.setMix).toHaveBeenCalledTimes(1);
});

test('the noise of the whole is of all that is rendered: taken again when a level changes, let go with its passages', async () => {
  jest.useFakeTimers();
  const { mixing, player, passage } = made();
  const noise: Edit[] = [
    { type: 'add-treatment', trackId: 'whole', kind: 'noise-reduction', treatmentId: 'w' },
    { type: 'set-whole-noise', spans: [{ startFrame: 0, endFrame: 48_000 }] },
  ];
  mixing.set(heard(after(...noise, { type: 'set-track', ...second, muted: true })));
  await jest.advanceTimersByTimeAsync(1);
  expect(passage.wholeProfile).toHaveBeenCalledTimes(1);
  expect(passage.wholeProfile.mock.lastCall![0].tracks).toHaveLength(1);
  expect(player.setWhole).toHaveBeenLastCalledWith(expect.anything(), { channels: [] });
  const louder = after(...noise, { type: 'set-track', ...second, gainDb: -6 });
  mixing.set(heard(louder));
  mixing.set(heard(louder, { solo: ['track-1'] }));
  await jest.advanceTimersByTimeAsync(300);
  expect(passage.wholeProfile).toHaveBeenCalledTimes(2);
  expect(passage.wholeProfile.mock.lastCall![0]).toMatchObject({
    lengthFrames: 480_000,
    tracks: [{ gains: [1, 1] }, { gains: [expect.closeTo(0.501, 3), expect.anything()] }],
  });
  mixing.set(heard(after(noise[0]!)));
  await jest.advanceTimersByTimeAsync(300);
  expect(player.setWhole).toHaveBeenLastCalledWith(expect.anything(), null);
  mixing.close();
  jest.useRealTimers();
});

test('what the chain on the whole remembers is learnt of the mix, told, and forgotten when the mix is another', async () => {
  jest.useFakeTimers();
  const { mixing, player, passage } = made();
  const tracked: Edit[] = [
    { type: 'add-treatment', trackId: 'whole', kind: 'noise-reduction', treatmentId: 'w' },
    { type: 'set-parameter', trackId: 'whole', treatmentId: 'w', name: 'mode', value: 'tracked' },
  ];
  const document = after(...tracked);
  mixing.set(heard(document));
  await jest.advanceTimersByTimeAsync(2000);
  expect(passage.wholeMemories.mock.calls.map(([{ mix, profile }, { index }]) => [mix.tracks.length, profile, index])).toEqual([
    [2, null, 1],
    [2, null, 2],
  ]);
  const [forget, told] = player.setWholeMemories.mock.calls.map(([news]) => news as { key: string; held: unknown[] });
  expect(forget).toMatchObject({ key: '', held: [] });
  expect(told!.key).not.toBe('');
  expect(told!.held).toHaveLength(1);
  expect(player.setWholeKnown.mock.calls.map(([frames]) => frames as number)).toEqual([0, 480_000, Infinity]);
  // Solo is for the ear: the mix that is rendered is the same.
  mixing.set(heard(document, { solo: ['track-1'] }));
  await jest.advanceTimersByTimeAsync(2000);
  expect(passage.wholeMemories).toHaveBeenCalledTimes(2);
  mixing.set(heard(after(...tracked, { type: 'set-track', ...second, gainDb: -3 })));
  expect(player.setWholeMemories).toHaveBeenLastCalledWith({ key: '', spacingFrames: 0, held: [] });
  await jest.advanceTimersByTimeAsync(2000);
  expect(passage.wholeMemories).toHaveBeenCalledTimes(4);
  mixing.set(heard(document, { together: false }));
  expect(player.setWholeKnown).toHaveBeenLastCalledWith(Infinity);
  mixing.close();
  jest.useRealTimers();
});

test('a kept profile is fetched; one that is gone is told, and the track is not heard untreated unnoticed', async () => {
  globalThis.fetch = jest.fn(async () => ({
    ok: false,
    status: 404,
    json: async () => ({ code: 'not-found', message: 'There is no such noise profile.' }),
  })) as unknown as typeof fetch;
  const { mixing, player, passage, troubles } = made();
  mixing.set(heard(after({ type: 'set-noise', ...second, noise: { kind: 'kept', profileId: 'p', name: 'Room' } })));
  await settle();
  await settle();
  expect(String(troubles[0])).toContain('no such noise profile');
  expect(passage.setRest).not.toHaveBeenCalled();
  expect(player.setMix).not.toHaveBeenCalled();
});
