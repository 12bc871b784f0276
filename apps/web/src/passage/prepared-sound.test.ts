import { readyFor } from '@euphonos/second-opinion';
import { CHUNK_FRAMES, chainRun, MemoryPass } from '@euphonos/engine';
import { parseChain } from '@euphonos/dsp';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { PreparedSound } from './prepared-sound.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const LENGTH = 7 * CHUNK_FRAMES + 1234;
const recording = ((): Float32Array => {
  const sound = mixed(voice(5, 120), noise(-60, 5, 2)).slice(0, LENGTH);
  for (let at = 20_000; at < LENGTH - 2000; at += 31_000)
    for (let n = 0; n < 24; n++) sound[at + n]! += 0.3 * Math.exp(-n / 6) * Math.cos(0.5 * n);
  return sound;
})();
const spec = parseChain({
  treatments: [
    { kind: 'clicks', id: 'c' },
    { kind: 'spots', id: 's', spots: [{ way: 'lower', startSeconds: 2, endSeconds: 2.4, lowHz: 300, highHz: 900, reductionDb: 30 }] },
  ],
});
const source = { ...oneRecording(LENGTH), sampleRateHz: RATE_HZ };

beforeEach(() => {
  globalThis.fetch = (async (_: unknown, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => recording.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer };
  }) as unknown as typeof fetch;
});

const whole = ((): Float32Array => {
  const parts: Float32Array[] = [];
  const run = chainRun({ sampleRateHz: RATE_HZ, channels: 1, kernels }, spec, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([recording], LENGTH);
  run.finish();
  return joined(...parts);
})();
const off = (chunk: Float32Array, index: number): number => {
  const frames = Math.min(CHUNK_FRAMES, LENGTH - index * CHUNK_FRAMES);
  return levelDb(Float32Array.from({ length: frames }, (_, n) => chunk[n]! - whole[index * CHUNK_FRAMES + n]!));
};

test('chunks in a row are what a render makes, to the last frame of the recording', async () => {
  const prepared = new PreparedSound(source, kernels);
  for (let index = 0; index <= 7; index++) {
    const [chunk] = await prepared.chunk('k', spec, undefined, index);
    expect(chunk!.length).toBe(CHUNK_FRAMES);
    expect(off(chunk!, index)).toBeLessThan(-120);
  }
});

test('a chunk in the middle, and one after another chain, agree within -90 dBFS', async () => {
  const prepared = new PreparedSound(source, kernels);
  expect(off((await prepared.chunk('k', spec, undefined, 4))[0]!, 4)).toBeLessThan(-90);
  await prepared.chunk('other', { treatments: [] }, undefined, 5);
  expect(off((await prepared.chunk('k', spec, undefined, 3))[0]!, 3)).toBeLessThan(-90);
});

test('asked for many at once, one is made after the other', async () => {
  const prepared = new PreparedSound(source, kernels);
  const chunks = await Promise.all([2, 3, 4].map((index) => prepared.chunk('k', spec, undefined, index)));
  chunks.forEach(([chunk], i) => expect(off(chunk!, i + 2)).toBeLessThan(-90));
});

test.each([
  ['tracked noise', { kind: 'noise-reduction', mode: 'tracked' }, { kind: 'clicks' }],
  ['deep noise reduction', { kind: 'hum-lines' }, { kind: 'noise-reduction', mode: 'tracked', network: 'deep' }],
])('%s: from what it remembers a chunk anywhere is what a render makes', async (_, ...treatments) => {
  const chain = parseChain({ treatments });
  await readyFor(chain);
  const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
  const parts: Float32Array[] = [];
  const run = chainRun(context, chain, (out, _source, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([recording], LENGTH);
  run.finish();
  const render = joined(...parts);
  const pass = new MemoryPass(context, chain, { treatments: [] }, LENGTH, 'k');
  pass.push([recording], LENGTH);
  const prepared = new PreparedSound(source, kernels);
  const held = Array.from({ length: 20 }, (_none, i) => i + 1).flatMap((index) => {
    const remembered = pass.memories.get(index);
    return remembered ? [[index, remembered] as const] : [];
  });
  // One that began without is not gone on with.
  await prepared.chunk('k', chain, undefined, 3);
  prepared.remember('k', { spacingFrames: pass.memories.spacingFrames, held });
  for (const index of [4, 5, 2, 6]) {
    const [chunk] = await prepared.chunk('k', chain, undefined, index);
    const at = index * CHUNK_FRAMES;
    expect(levelDb(chunk!.map((x, n) => x - render[at + n]!))).toBeLessThan(-90);
  }
});
