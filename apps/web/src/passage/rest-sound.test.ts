import { parseChain } from '@euphonos/dsp';
import { applyEdit, CHUNK_FRAMES, createDocument } from '@euphonos/engine';
import { kernels, levelDb, noise, RATE_HZ } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { RestSound, type RestTrack } from './rest-sound.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const channels = [noise(-30, 3, 1), noise(-30, 3, 2), noise(-30, 3, 3)];
const LENGTH = channels[0]!.length;
const plain = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 }).tracks[0]!;

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const sound = channels[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => sound.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const track = (channel: number, more: Partial<RestTrack> = {}): RestTrack => ({
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(plain),
  chain: { treatments: [] },
  gainDb: 0,
  noise: null,
  ...more,
});

test('the sum of the others, each at its level, on every channel; silence after their end', async () => {
  const rest = new RestSound([track(0), track(1, { gainDb: -6 })], kernels);
  const [left, right] = await rest.chunk(1, 2);
  expect(left).toEqual(right);
  const gain = 10 ** (-6 / 20);
  const expected = (n: number): number => channels[0]![CHUNK_FRAMES + n]! + gain * channels[1]![CHUNK_FRAMES + n]!;
  for (const n of [0, 1000, CHUNK_FRAMES - 1]) expect(left![n]!).toBeCloseTo(expected(n), 6);
  const last = (await rest.chunk(4, 1))[0]!;
  expect(levelDb(last, LENGTH - 4 * CHUNK_FRAMES, CHUNK_FRAMES)).toBeLessThan(-150);
});

test('through their chains, with a profile of their passages, and their clips', async () => {
  const cut = applyEdit(createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 }), {
    type: 'level-spans',
    trackId: 'track-1',
    spans: [{ startFrame: 0, endFrame: 60_000 }],
    byDb: -20,
  });
  const quiet = new RestSound([track(2, { sound: soundOf(cut.tracks[0]!) })], kernels);
  expect(levelDb((await quiet.chunk(0, 1))[0]!)).toBeCloseTo(-50, 0);
  const reduced = new RestSound(
    [
      track(2, {
        chain: parseChain({ treatments: [{ kind: 'noise-reduction', reductionDb: 20 }] }),
        noise: [{ startFrame: 0, endFrame: 90_000 }],
      }),
    ],
    kernels,
  );
  expect(levelDb((await reduced.chunk(1, 1))[0]!)).toBeLessThan(-45);
});
