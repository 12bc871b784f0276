import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, MemoryPass, plainClip } from '@euphonos/engine';
import { kernels, mixed, noise, RATE_HZ, voice } from '../../../../packages/dsp/src/testing/signals.js';
import { ChainMemory, type MemoryNews, type MemoryRequest } from './chain-memory.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const LENGTH = 8 * CHUNK_FRAMES + 777;
const recording = mixed(voice(7, 120), noise(-55, 7, 2)).slice(0, LENGTH);
const source = { ...oneRecording(LENGTH), sampleRateHz: RATE_HZ };
const profile = takeNoiseProfile(kernels, [noise(-55, 1, 5)], RATE_HZ);
const whole = parseChain({ treatments: [{ kind: 'noise-reduction', mode: 'follow', network: 'light' }, { kind: 'gate' }] });
const plain = [plainClip('a', 0, { startFrame: 0, endFrame: LENGTH })];
const cut = [
  plainClip('a', 0, { startFrame: 0, endFrame: 6 * CHUNK_FRAMES }),
  plainClip('b', 6 * CHUNK_FRAMES, { startFrame: 7 * CHUNK_FRAMES, endFrame: LENGTH }),
];
const request = (key: string, clips = plain, chain = whole): MemoryRequest => ({
  key,
  sound: { clips, roomTone: null },
  whole: chain,
  profile,
  preparedKey: key,
});

let fetched = 0;
beforeEach(() => {
  fetched = 0;
  globalThis.fetch = (async (_: unknown, init: RequestInit) => {
    fetched++;
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => recording.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer };
  }) as unknown as typeof fetch;
});

/** All that is remembered, from as many questions as it takes. */
async function all(memory: ChainMemory, of: MemoryRequest): Promise<Map<number, MemoryNews['held'][number][1]>> {
  const held = new Map<number, MemoryNews['held'][number][1]>();
  for (let fromIndex = 1; ;) {
    const news = await memory.next(of, { index: fromIndex, preparedIndex: 1 });
    for (const [index, remembered] of news.held) held.set(index, remembered);
    fromIndex += news.held.length;
    if (news.done) return held;
  }
}

test('is learnt in pieces, and told again at once to whoever asks from the beginning', async () => {
  const memory = new ChainMemory(source, kernels);
  const held = await all(memory, request('one'));
  expect([...held.keys()]).toEqual(Array.from({ length: held.size }, (_, i) => i + 1));
  expect(held.size).toBeGreaterThan(8);
  fetched = 0;
  expect((await memory.next(request('one'), { index: 1, preparedIndex: 1 })).held).toHaveLength(held.size);
  expect(fetched).toBe(0);
});

test('after an edit only what comes after it is heard again, and the outcome is that of a pass from the start', async () => {
  const memory = new ChainMemory(source, kernels);
  await all(memory, request('before'));
  fetched = 0;
  const gone = await all(memory, request('after', cut));
  expect(fetched).toBeLessThan(5);
  const anew = await all(new ChainMemory(source, kernels), request('after', cut));
  expect(gone.size).toBe(anew.size);
  // What was heard before the edit is the same to the bit; after it to rounding of what settles.
  const near = (index: number): number => {
    const [a, b] = [gone, anew].map((held) => new Float32Array(held.get(index)!.chain[0]!.slice(0))) as [Float32Array, Float32Array];
    return a.reduce((most, x, n) => Math.max(most, Math.abs(x - b[n]!) / (Math.abs(x) + 1e-6)), 0);
  };
  for (const index of [1, 4, gone.size]) expect(near(index)).toBeLessThan(0.02);
});

test('behind what is rendered in the background it hears that', async () => {
  const chain = parseChain({ treatments: [{ kind: 'clicks' }, { kind: 'gate' }] });
  const held = await all(new ChainMemory(source, kernels), request('clicks', plain, chain));
  const without = await all(new ChainMemory(source, kernels), request('none', plain, parseChain({ treatments: [{ kind: 'gate' }] })));
  expect(held.size).toBe(without.size);
  const left = (of: Awaited<ReturnType<typeof all>>): number => new Float32Array(of.get(3)!.chain[0]!.slice(0)).length;
  expect(left(held)).toBe(left(without));
});

test('what is rendered in the background remembers too; asked twice at once, nothing of it is lost', async () => {
  const chain = parseChain({ treatments: [{ kind: 'hum-notch', drift: 'follow' }, { kind: 'clicks' }, { kind: 'gate' }] });
  const collect = async (twice: boolean): Promise<Map<string, Uint8Array>> => {
    const memory = new ChainMemory(source, kernels);
    const found = new Map<string, Uint8Array>();
    for (let [index, preparedIndex] = [1, 1]; ;) {
      const [news] = await Promise.all(
        Array.from({ length: twice ? 2 : 1 }, () => memory.next(request('both', plain, chain), { index, preparedIndex })),
      );
      for (const [i, { chain: stages, turn }] of news!.held)
        [...stages, ...turn].forEach((b, k) => found.set(`live ${i} ${k}`, new Uint8Array(b)));
      for (const [i, { chain: stages }] of news!.prepared!.held)
        stages.forEach((b, k) => found.set(`prepared ${i} ${k}`, new Uint8Array(b)));
      index += news!.held.length;
      preparedIndex += news!.prepared!.held.length;
      if (news!.done) return found;
    }
  };
  const [once, twice] = [await collect(false), await collect(true)];
  expect([...once.keys()].filter((key) => key.startsWith('prepared')).length).toBeGreaterThan(8);
  expect(twice).toEqual(once);
  // The turn hears the track, not what was made of it.
  const whole = new MemoryPass({ sampleRateHz: RATE_HZ, channels: 1, kernels }, { treatments: [] }, chain, LENGTH, 'turn');
  whole.push([recording], LENGTH);
  expect(once.get('live 3 1')).toEqual(new Uint8Array(whole.memories.get(3)!.turn[0]!));
});
