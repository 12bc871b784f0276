import { parseChain } from '@euphonos/dsp';
import { applyEdit, CHUNK_FRAMES, createDocument } from '@euphonos/engine';
import { kernels, levelDb, noise, RATE_HZ } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { RestSound, type RestTrack } from './rest-sound.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const channels = [noise(-30, 3, 1), noise(-30, 3, 2), noise(-30, 3, 3)];
const LENGTH = channels[0]!.length;
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
const plain = document.tracks[0]!;
const fetched = jest.fn();

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    fetched(url);
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const sound = channels[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => sound.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const track = (channel: number, more: Partial<RestTrack> = {}): RestTrack => ({
  id: `t${channel}`,
  key: '1',
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(plain),
  chain: { treatments: [] },
  noise: null,
  ...more,
});
const restOf = (...tracks: RestTrack[]): RestSound => {
  const rest = new RestSound(kernels);
  rest.set(tracks);
  return rest;
};

test('each of the others by itself, as it lies in its recording; silence after its end', async () => {
  const rest = restOf(track(0), track(1));
  const [own] = await rest.chunk('t1', 1);
  expect(own).toEqual(channels[1]!.slice(CHUNK_FRAMES, 2 * CHUNK_FRAMES));
  const last = (await rest.chunk('t0', 4))[0]!;
  expect(levelDb(last, LENGTH - 4 * CHUNK_FRAMES, CHUNK_FRAMES)).toBeLessThan(-150);
  await expect(rest.chunk('t2', 0)).rejects.toThrow('t2');
});

test('through their chains, with a profile of their passages, and their clips', async () => {
  const cut = applyEdit(document, { type: 'level-spans', trackId: 'track-1', spans: [{ startFrame: 0, endFrame: 60_000 }], byDb: -20 });
  const quiet = restOf(track(2, { sound: soundOf(cut.tracks[0]!) }));
  expect(levelDb((await quiet.chunk('t2', 0))[0]!)).toBeCloseTo(-50, 0);
  const reduced = restOf(
    track(2, {
      chain: parseChain({ treatments: [{ kind: 'noise-reduction', reductionDb: 20 }] }),
      noise: [{ startFrame: 0, endFrame: 90_000 }],
    }),
  );
  expect(levelDb((await reduced.chunk('t2', 1))[0]!)).toBeLessThan(-45);
});

test('a track that stays as it is goes on; one that changes is made anew, one that is gone is let go', async () => {
  const rest = restOf(track(0), track(1));
  await rest.chunk('t0', 0);
  rest.set([
    track(0),
    track(1, { key: '2', chain: parseChain({ treatments: [{ kind: 'high-pass', cutoffHz: 400, slopeDbPerOctave: 48 }] }) }),
  ]);
  const before = fetched.mock.calls.length;
  // What goes on has heard what came before: it fetches no lead again.
  await rest.chunk('t0', 1);
  expect(fetched.mock.calls.length).toBeLessThanOrEqual(before + 1);
  expect(levelDb((await rest.chunk('t1', 1))[0]!)).toBeLessThan(levelDb(channels[1]!));
  rest.set([track(1, { key: '2' })]);
  await expect(rest.chunk('t0', 2)).rejects.toThrow('t0');
});

test('what is kept is made once, by state: an earlier one beside it is not taken for it, and what nobody asks for makes room', async () => {
  const bytes = CHUNK_FRAMES * 4;
  const rest = new RestSound(kernels, 2 * bytes);
  const cut = applyEdit(document, { type: 'level-spans', trackId: 'track-1', spans: [{ startFrame: 0, endFrame: LENGTH }], byDb: -20 });
  const [before, after] = [track(2, { id: 'a/1' }), track(2, { id: 'a/2', sound: soundOf(cut.tracks[0]!) })];
  rest.hold([before]);
  const first = await rest.chunk('a/1', 0);
  rest.hold([after]);
  const lowered = await rest.chunk('a/2', 0);
  rest.hold([before]);
  expect(await rest.chunk('a/1', 0)).toBe(first);
  expect(await rest.chunk('a/2', 0)).toBe(lowered);
  expect(levelDb(first[0]!) - levelDb(lowered[0]!)).toBeCloseTo(20, 0);
  // A third chunk: that of the state which was held longest ago goes.
  await rest.chunk('a/1', 1);
  expect(await rest.chunk('a/2', 0)).not.toBe(lowered);
});
