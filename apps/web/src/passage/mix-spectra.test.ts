import { parseChain } from '@euphonos/dsp';
import { createDocument } from '@euphonos/engine';
import { joined, kernels, noise, RATE_HZ, silence } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import { mixSpectra } from './mix-spectra.js';
import { RestSound } from './rest-sound.js';

const loud = noise(-20, 3, 7);
const sound = joined(loud, silence(2));
const LENGTH = sound.length;
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });

beforeAll(() => {
  globalThis.fetch = jest.fn(async (_: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => sound.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const track = (treatments: object[]) => ({
  id: 't',
  key: JSON.stringify(treatments),
  source: { ...oneRecording(LENGTH, 0), sampleRateHz: RATE_HZ },
  sound: soundOf(document.tracks[0]!),
  chain: parseChain({ treatments }),
  noise: null,
});
const mix = (own: object[], whole: object[] = []) => ({
  tracks: [{ track: track(own), gains: [0.5, 0.5] as const }],
  channels: 2,
  sampleRateHz: RATE_HZ,
  chain: parseChain({ treatments: whole }),
  lengthFrames: LENGTH,
});
const bell = { kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 1000, gainDb: -6, q: 1 }] };
const heard = (own: object[], whole: object[] = [], span = { startFrame: 0, endFrame: LENGTH }) =>
  mixSpectra(kernels, new RestSound(kernels), mix(own, whole), span);

test.each([
  ['a track', [bell], []],
  ['the whole', [], [bell]],
])('what the chain of %s does to the tone is seen at its level in the mix', async (_, own, whole) => {
  const { before, after } = await heard(own, whole);
  const change = (hz: number): number => after!.find((band) => band.hz === hz)!.dbfs - before!.find((band) => band.hz === hz)!.dbfs;
  // Half as loud in the mix: -6.02 dB; the bell takes 6 dB more in its middle (Bristow-Johnson), nothing far from it.
  expect(change(1000)).toBeCloseTo(-12.02, 0);
  expect(change(100)).toBeCloseTo(-6.02, 0);
  expect(change(10_000)).toBeCloseTo(-6.02, 0);
});

test('only the span that is asked for counts', async () => {
  const { before, after } = await heard([], [], { startFrame: 3.2 * RATE_HZ, endFrame: LENGTH });
  expect([before, after]).toEqual([null, null]);
  expect((await heard([], [], { startFrame: 0, endFrame: RATE_HZ })).before).not.toBeNull();
});
