import { parseChain, type ChainSpec } from '@euphonos/dsp';
import { createDocument } from '@euphonos/engine';
import { joined, kernels, noise, RATE_HZ, silence, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import { bleedInMix } from './bleed-in-mix.js';
import { RestSound, type RestTrack } from './rest-sound.js';
import { SpeechListener } from './speech-in-mix.js';

const [low, high] = [voice(4, 110), voice(4, 190, 9)];
const turns = [joined(low, silence(5)), joined(silence(5), high)] as const;
/** A microphone hears the other one too, later and softer, over its own floor. */
const mic = (own: Float32Array, other: Float32Array, seed: number): Float32Array => {
  const floor = noise(-72, 9, seed);
  return own.map((x, n) => x + 0.08 * (other[n - 150] ?? 0) + floor[n]!);
};
const sounds = [mic(turns[0], turns[1], 3), mic(turns[1], turns[0], 4), noise(-40, 9, 5)];
const LENGTH = sounds[0]!.length;
const { tracks } = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
let fetched = 0;
beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    fetched++;
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const samples = sounds[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => samples.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const rest = (channel: number, chain: ChainSpec = parseChain({ treatments: [] }), state = ''): RestTrack => ({
  id: `t${channel}${state}`,
  key: `k${channel}${state}`,
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(tracks[0]!),
  chain,
  noise: null,
});
const at = (gain: number) => [gain, gain] as const;
const request = { channels: 1, sampleRateHz: RATE_HZ, lengthFrames: LENGTH };

test('who speaks when on each track, and how far that stands above the bed; other levels cost no second listening', async () => {
  const listener = new SpeechListener(kernels, new RestSound(kernels));
  const ask = (gain: number, bed: RestTrack) =>
    listener.measure({ ...request, speech: [0, 1].map((i) => ({ track: rest(i), gains: at(gain) })), bed: { track: bed, gains: at(1) } });
  const { talk, over } = await ask(1, rest(2));
  const within = (i: number, from: number, to: number): number =>
    talk[i]!.reduce((sum, span) => sum + Math.max(0, Math.min(to, span.endSeconds) - Math.max(from, span.startSeconds)), 0);
  expect(within(0, 0, 4)).toBeGreaterThan(2);
  expect(within(0, 5, 9)).toBeLessThan(0.2);
  expect(within(1, 5, 9)).toBeGreaterThan(2);
  const before = fetched;
  const louder = await ask(2, rest(2));
  expect(fetched).toBe(before);
  expect(louder.over.overLu! - over.overLu!).toBeCloseTo(6.02, 2);
  expect(louder.talk[0]![0]!.lufs - talk[0]![0]!.lufs).toBeCloseTo(6, 1);
  // What turns the bed down while they speak raises them over it by as much.
  const rows = talk.flat().map((span) => ({ ...span, state: 'treat' }));
  const lowered = parseChain({ treatments: [{ kind: 'under-speech', depthDb: 9, talk: rows }] });
  const under = await ask(1, rest(2, lowered, 'lowered'));
  expect(under.over.overLu! - over.overLu!).toBeCloseTo(9, 1);
  // The floors of both microphones are the noise; a bed that is lower hides less of it.
  const { noise } = await ask(1, rest(2));
  expect(noise!.underLu).toBeGreaterThan(25);
  expect(noise!.underLu - under.noise!.underLu).toBeGreaterThan(5);
});

test('where a microphone hears somebody else only, in seconds of its recording', async () => {
  const [first, second] = await bleedInMix(kernels, [rest(0), rest(1)]);
  expect(first!.every(({ startSeconds }) => (startSeconds as number) > 4)).toBe(true);
  expect(second!.every(({ endSeconds }) => (endSeconds as number) < 5.2)).toBe(true);
  for (const rows of [first!, second!])
    expect(rows.reduce((sum, row) => sum + (row['endSeconds'] as number) - (row['startSeconds'] as number), 0)).toBeGreaterThan(2);
});
