import { parseChain } from '@euphonos/dsp';
import { createDocument, runThrough } from '@euphonos/engine';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, sine, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import { RestSound } from './rest-sound.js';
import { renderSpan } from './span-render.js';

// Talk over a room's floor, then a tone; and a hum beside it on the other track.
const talk = mixed(
  joined(
    voice(12).map((x) => 0.3 * x),
    sine(1000, -20, 4),
  ),
  noise(-62, 16, 9),
);
const hum = sine(100, -30, 16);
const LENGTH = talk.length;
const sounds = [talk, hum];
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const samples = sounds[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => samples.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const track = (channel: number, treatments: object[]) => ({
  id: `t${channel}`,
  key: JSON.stringify(treatments),
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(document.tracks[0]!),
  chain: parseChain({ treatments }),
  noise: null,
});
const highPass = { kind: 'high-pass', cutoffHz: 200, slopeDbPerOctave: 24 };
const whole = { kind: 'compressor', thresholdDb: -30, ratio: 3 };
const mix = {
  tracks: [
    { track: track(0, []), gains: [1, 1] as const },
    { track: track(1, [highPass]), gains: [0.5, 0.5] as const },
  ],
  channels: 1,
  sampleRateHz: RATE_HZ,
  chain: parseChain({ treatments: [whole] }),
  lengthFrames: LENGTH,
};
const span = { startFrame: 12 * RATE_HZ, endFrame: 15 * RATE_HZ };

test('the result of a span is what the whole mix is there', async () => {
  const { channels, lufs, truePeakDbtp } = await renderSpan(kernels, new RestSound(kernels), mix, span, 'result');
  const context = { kernels, sampleRateHz: RATE_HZ, channels: 1 };
  const [other] = runThrough(context, parseChain({ treatments: [highPass] }), [hum]);
  const sum = talk.map((x, n) => x + 0.5 * other![n]!);
  const [whole] = runThrough(context, mix.chain, [sum]);
  const expected = whole!.slice(span.startFrame, span.endFrame);
  expect(channels).toHaveLength(1);
  expect(channels[0]).toHaveLength(3 * RATE_HZ);
  const off = channels[0]!.map((x, n) => x - expected[n]!);
  expect(levelDb(off)).toBeLessThan(-90);
  // A steady tone: its own loudness and peak (BS.1770: 1 kHz is weighted by about +0.7 dB less 0.69).
  expect(lufs!).toBeCloseTo(levelDb(expected), 0);
  expect(truePeakDbtp!).toBeGreaterThan(levelDb(expected) + 2.9);
});

test('the source of a span is all tracks as they were recorded, without levels', async () => {
  const { channels } = await renderSpan(kernels, new RestSound(kernels), mix, span, 'source');
  const expected = talk.map((x, n) => x + hum[n]!).slice(span.startFrame, span.endFrame);
  expect(levelDb(channels[0]!.map((x, n) => x - expected[n]!))).toBeLessThan(-120);
});
