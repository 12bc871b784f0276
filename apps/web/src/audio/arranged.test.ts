import { applyEdit, CHUNK_FRAMES, createDocument, type ReelPart } from '@euphonos/engine';
import { noise } from '../../../../packages/dsp/src/testing/signals.js';
import { ArrangedReader, soundOf } from './arranged.js';
import { fetchFrames, sourceOf } from './samples.js';
import { oneRecording } from './testing/one-recording.js';

const recording = noise(-40, 4, 6);
const LENGTH = recording.length;
const source = { ...oneRecording(LENGTH), sampleRateHz: 48_000 };
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: 48_000, channels: 1 });
const urls: string[] = [];

beforeEach(() => {
  urls.length = 0;
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    urls.push(url);
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => recording.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});

test('without an edit it is the recording; the last chunk is filled up with silence', async () => {
  const reader = new ArrangedReader(source);
  const [samples] = await reader.read(1000, 90_000);
  expect(samples).toEqual(recording.slice(1000, 90_000));
  const last = Math.floor(LENGTH / CHUNK_FRAMES);
  const [chunk] = await reader.chunk(last);
  const end = LENGTH - last * CHUNK_FRAMES;
  expect([chunk!.length, chunk![end - 1], chunk![end]]).toEqual([CHUNK_FRAMES, recording[LENGTH - 1], 0]);
});

const part = (recordingId: string, channels: readonly number[], startFrame: number, frames: number): ReelPart => ({
  recordingId,
  channels,
  startFrame,
  frames,
});

test('channels stay apart; one that serves twice is fetched once', async () => {
  await fetchFrames(sourceOf([part('r', [0, 3], 0, LENGTH)]), 0, 8);
  expect(urls).toEqual(['/api/recordings/r/channels/0', '/api/recordings/r/channels/3']);
  urls.length = 0;
  const [left, right] = await fetchFrames(sourceOf([part('r', [2, 2], 0, LENGTH)]), 100, 108);
  expect(urls).toEqual(['/api/recordings/r/channels/2']);
  expect(left).toEqual(right);
  expect(left!.buffer).not.toBe(right!.buffer);
});

test('of a reel each recording is asked for its own frames; between them is silence', async () => {
  const source = sourceOf([part('r', [0], 0, 1000), part('s', [1], 5000, 500)]);
  const [samples] = await fetchFrames(source, 900, 5200);
  expect(urls).toEqual(['/api/recordings/r/channels/0', '/api/recordings/s/channels/1']);
  expect(samples!.subarray(0, 100)).toEqual(recording.slice(900, 1000));
  expect(samples!.subarray(100, 4100).every((x) => x === 0)).toBe(true);
  expect(samples!.subarray(4100)).toEqual(recording.slice(0, 200));
});

test('a hundred clips next to each other are fetched once', async () => {
  const spans = Array.from({ length: 100 }, (_, i) => ({ startFrame: 500 + i * 400, endFrame: 600 + i * 400 }));
  const { tracks } = applyEdit(document, { type: 'cut-spans', trackId: 'track-1', spans, close: true });
  const reader = new ArrangedReader(source);
  reader.set(soundOf(tracks[0]!));
  expect(reader.lengthFrames).toBe(LENGTH - 10_000);
  await reader.read(0, 30_000);
  expect(urls).toHaveLength(1);
});

test('room tone is made of its passage, once', async () => {
  const toned = applyEdit(document, { type: 'set-room-tone', trackId: 'track-1', span: { startFrame: 0, endFrame: 40_000 } });
  const { tracks } = applyEdit(toned, {
    type: 'fill-spans',
    trackId: 'track-1',
    spans: [{ startFrame: 100_000, endFrame: 150_000, sound: { kind: 'room-tone', gainDb: -6 } }],
  });
  const reader = new ArrangedReader(source);
  reader.set(soundOf(tracks[0]!));
  const [samples] = await reader.read(110_000, 140_000);
  const db = (x: Float32Array): number => 10 * Math.log10(x.reduce((sum, v) => sum + v * v, 0) / x.length);
  expect(db(samples!) - db(recording)).toBeCloseTo(-6, 0);
  expect(samples).not.toEqual(recording.slice(110_000, 140_000));
});
