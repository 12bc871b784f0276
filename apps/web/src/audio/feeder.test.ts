import { CHUNK_FRAMES } from '@euphonos/engine';
import { Feeder } from './feeder.js';
import { fetchFrames } from './samples.js';
import { oneRecording } from './testing/one-recording.js';

// Time is made: what is waited for is over when it is, however busy the machine.
beforeEach(() => void jest.useFakeTimers({ advanceTimers: true }));
afterEach(() => void jest.useRealTimers());
const CHUNKS = 400;
const source = { ...oneRecording(CHUNKS * CHUNK_FRAMES - 100) };
const chunk = (index: number) => fetchFrames(source, index * CHUNK_FRAMES, Math.min(source.lengthFrames, (index + 1) * CHUNK_FRAMES));

/** A server whose answers come when told to; every sample is the frame's chunk. */
function line() {
  const asked: { chunk: number; answer: () => void; fail: () => void }[] = [];
  globalThis.fetch = jest.fn(
    (_: unknown, init: RequestInit) =>
      new Promise<Response>((resolve, reject) => {
        const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
        const chunk = Number(from) / 4 / CHUNK_FRAMES;
        const samples = new Float32Array((Number(to) + 1 - Number(from)) / 4).fill(chunk);
        asked.push({
          chunk,
          answer: () => resolve({ ok: true, arrayBuffer: async () => samples.buffer } as unknown as Response),
          fail: () => reject(new TypeError('cut')),
        });
      }),
  ) as unknown as typeof fetch;
  return asked;
}
function feeder() {
  const held = new Map<number, Float32Array[]>();
  const troubles: unknown[] = [];
  const made = new Feeder(
    source.lengthFrames,
    (index, channels) => held.set(index, channels),
    (index) => held.delete(index),
    (error) => troubles.push(error),
    chunk,
  );
  return { made, held, troubles };
}
const settle = () => new Promise((resolve) => setImmediate(resolve));

test('what is played next comes first, three at a time', async () => {
  const asked = line();
  const { made, held } = feeder();
  made.moveTo(5 * CHUNK_FRAMES + 17, null, true);
  expect(asked.map(({ chunk }) => chunk)).toEqual([5, 6, 7]);
  asked[1]!.answer();
  await settle();
  expect([...held.keys()]).toEqual([6]);
  expect(asked.map(({ chunk }) => chunk)).toEqual([5, 6, 7, 8]);
});

test('after a jump the new place comes before the rest of the old one, and the old one is let go when told', async () => {
  const asked = line();
  const { made, held } = feeder();
  made.moveTo(0, null, true);
  for (const request of asked.slice(0, 3)) request.answer();
  await settle();
  made.moveTo(300 * CHUNK_FRAMES, null, false);
  expect([...held.keys()].sort()).toEqual([0, 1, 2]);
  made.moveTo(300 * CHUNK_FRAMES, null, true);
  expect([...held.keys()]).toEqual([]);
  for (const request of asked.slice(3, 6)) request.answer();
  await settle();
  expect(asked.slice(6, 8).map(({ chunk }) => chunk)).toEqual([300, 301]);
});

test('a loop is held as a whole while the playhead goes round in it', async () => {
  const asked = line();
  const { made, held } = feeder();
  const loop = { startFrame: 20 * CHUNK_FRAMES, endFrame: 24 * CHUNK_FRAMES };
  made.moveTo(loop.startFrame, loop, true);
  for (let i = 0; i < 40 && i < asked.length; i++) {
    asked[i]!.answer();
    await settle();
  }
  for (const chunk of [19, 20, 21, 22, 23, 24]) expect(held.has(chunk)).toBe(true);
  made.moveTo(loop.endFrame - 1, loop, true);
  expect(held.has(20)).toBe(true);
});

test('a broken line is told, and the chunk is asked for again', async () => {
  const asked = line();
  const { made, held, troubles } = feeder();
  made.moveTo(0, null, true);
  asked[0]!.fail();
  await settle();
  expect(troubles).toHaveLength(1);
  await jest.advanceTimersByTimeAsync(800);
  const again = asked.filter(({ chunk }) => chunk === 0);
  expect(again).toHaveLength(2);
  again[1]!.answer();
  await settle();
  expect(held.has(0)).toBe(true);
});
