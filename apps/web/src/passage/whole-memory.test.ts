import { memoryKey, parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { createDocument, MemoryPass } from '@euphonos/engine';
import { joined, kernels, mixed, noise, RATE_HZ, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import type { WholeMix } from './mixed-sum.js';
import { WholeMemory, type WholeRequest } from './whole-memory.js';

const sounds = [mixed(joined(silence(1), sine(300, -20, 2), silence(1)), noise(-45, 4, 1)), noise(-50, 4, 2)];
const LENGTH = sounds[0]!.length;
const sum = sounds[0]!.map((x, n) => x + 0.5 * sounds[1]![n]!);
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
const chain = parseChain({ treatments: [{ kind: 'high-pass' }, { kind: 'noise-reduction' }] });
const profile = takeNoiseProfile(kernels, [sum.subarray(0, 40_000)], RATE_HZ);

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const sound = sounds[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => sound.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const mix: WholeMix = {
  tracks: [0, 1].map((channel) => ({
    track: {
      id: `t${channel}`,
      key: '1',
      source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
      sound: soundOf(document.tracks[0]!),
      chain: { treatments: [] },
      noise: null,
    },
    gains: channel === 0 ? ([1, 1] as const) : ([0.5, 0.5] as const),
  })),
  channels: 1,
  sampleRateHz: RATE_HZ,
  chain,
  lengthFrames: LENGTH,
};

test('what the chain on the whole remembers is what it remembers of the sum, in however many answers', async () => {
  const memory = new WholeMemory(kernels);
  const request: WholeRequest = { key: 'a', mix, profile };
  const held: [number, { readonly chain: readonly ArrayBuffer[] }][] = [];
  let spacing = 0;
  for (let done = false; !done;) {
    const news = await memory.next(request, { index: held.length + 1, preparedIndex: 1 });
    held.push(...(news.held as typeof held));
    ({ done } = news);
    spacing = news.spacingFrames;
  }
  const pass = new MemoryPass(
    { kernels, sampleRateHz: RATE_HZ, channels: 1, noiseProfile: profile },
    chain,
    { treatments: [] },
    LENGTH,
    memoryKey(chain),
  );
  const padded = new Float32Array(Math.ceil(LENGTH / spacing) * spacing);
  padded.set(sum);
  pass.push([padded], padded.length);
  expect(spacing).toBe(pass.memories.spacingFrames);
  expect(held.length).toBeGreaterThanOrEqual(6);
  for (const [index, { chain: stages }] of held.slice(0, 6)) {
    const expected = pass.memories.get(index)!.chain;
    expect(stages.length).toBe(expected.length);
    const values = (of: ArrayBuffer) => Array.from(new Float32Array(of.slice(0, of.byteLength - (of.byteLength % 4))));
    const far = values(stages[0]!).map((x, i) => Math.abs(x - values(expected[0]!)[i]!));
    expect(far.filter((x) => x > 1e-3)).toEqual([]);
  }
});

test('another mix is another pass', async () => {
  const memory = new WholeMemory(kernels);
  const first = await memory.next({ key: 'a', mix, profile }, { index: 1, preparedIndex: 1 });
  expect(first.nextFrame).toBeGreaterThan(0);
  const other = { ...mix, lengthFrames: 1 };
  const second = await memory.next({ key: 'b', mix: other, profile: null }, { index: 1, preparedIndex: 1 });
  expect(second).toMatchObject({ passed: true, done: true });
});
