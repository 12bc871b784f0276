import { memoryKey, takeNoiseProfile, type ChainSpec, type NoiseProfile } from '@euphonos/dsp';
import { joined, kernels, levelDb, noise, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { chainRun } from '../offline/chain-run.js';
import type { BesideTrack } from './beside.js';
import { MemoryPass } from './memory-pass.js';
import type { Memories } from './memories.js';
import type { Mix } from './mixdown.js';
import { ChunkStore } from './sample-store.js';
import { chain, compared, context, createMonitor, full, largestStep, listen, offline, recording, store } from '../testing/listening.js';

const other = noise(-30, recording.length / RATE_HZ, 11);
const limiting = chain({ kind: 'high-pass', cutoffHz: 60 }, { kind: 'gate', openDb: -60, closeDb: -65 });
const toned = chain({ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 400, gainDb: -9, q: 1 }] });

/** The render of the sum: the track through its chain, the others beside it, all through the chain on the whole. */
function mixed(spec: ChainSpec, rest: Float32Array | null, whole: ChainSpec, noiseProfile?: NoiseProfile): Float32Array {
  const own = offline(spec);
  const sum = rest ? own.map((x, n) => x + rest[n]!) : own;
  const parts: Float32Array[] = [];
  const run = chainRun({ ...context, noiseProfile }, whole, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([sum], sum.length);
  run.finish();
  return joined(...parts);
}
const alone = { channels: 1, ownGains: [1, 1], beside: [], lengthFrames: 0 } as const;
const beside = (sound: Float32Array, gains: readonly [number, number] = [1, 1], id = 'other'): BesideTrack => ({
  id,
  store: store(sound),
  channels: 1,
  gains,
});
const withOther = (sound: Float32Array | null): Mix => ({
  ...alone,
  beside: sound ? [beside(sound)] : [],
  lengthFrames: sound?.length ?? 0,
});

function heardFrom(
  spec: ChainSpec,
  rest: Float32Array | null,
  whole: ChainSpec,
  start: number,
  noiseProfile?: NoiseProfile,
  memories: Memories | null = null,
) {
  const monitor = createMonitor(spec);
  monitor.setMix(withOther(rest));
  monitor.setWhole(whole, noiseProfile);
  monitor.setWholeMemories(memories);
  monitor.play(start);
  const { out, frames } = listen(monitor, 1.6);
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  return { heard: out.subarray(first * 128, first * 128 + RATE_HZ / 2), from: frames[first]!, exact: monitor.exact };
}
const differenceDb = (heard: Float32Array, render: Float32Array, from: number): number =>
  levelDb(heard.map((x, n) => x - render[from + n]!));

test.each([
  ['other tracks', other, chain(), chain({ kind: 'high-pass' }, { kind: 'noise-reduction' })],
  ['a chain on the whole', null, toned, full],
  ['both, and latency on the whole', other, limiting, chain({ kind: 'high-pass' })],
])('%s: heard as they are rendered, from the start and from the middle', (_, rest, whole, spec) => {
  const render = mixed(spec, rest, whole);
  for (const start of [0, 70_000]) {
    const { heard, from } = heardFrom(spec, rest, whole, start);
    expect(Math.abs(from - start)).toBeLessThanOrEqual(14 * 128);
    expect(differenceDb(heard, render, from)).toBeLessThan(-90);
  }
});

test('noise reduction on the whole weighs by the noise of the sum, as it is rendered; until that is known it is left out', () => {
  const whole = chain({ kind: 'noise-reduction', reductionDb: 20 });
  const spec = chain({ kind: 'high-pass' });
  const sum = mixed(spec, other, chain());
  const noiseProfile = takeNoiseProfile(kernels, [sum.subarray(0, 40_000)], RATE_HZ);
  const render = mixed(spec, other, whole, noiseProfile);
  expect(levelDb(render, 10_000, 40_000) - levelDb(sum, 10_000, 40_000)).toBeLessThan(-12);
  const pass = new MemoryPass({ ...context, noiseProfile }, whole, chain(), sum.length, memoryKey(whole));
  pass.push([sum], sum.length);
  for (const start of [0, 40_000, 70_000]) {
    const { heard, from, exact } = heardFrom(spec, other, whole, start, noiseProfile, pass.memories);
    expect(differenceDb(heard, render, from)).toBeLessThan(-90);
    expect(exact).toBe(true);
  }
  // Without what it remembers it is near, and says that it is not exact; from the beginning nothing is to be remembered.
  expect(heardFrom(spec, other, whole, 70_000, noiseProfile).exact).toBe(false);
  expect(heardFrom(spec, other, whole, 0, noiseProfile).exact).toBe(true);
  const { heard, from } = heardFrom(spec, other, whole, 70_000);
  expect(differenceDb(heard, sum, from)).toBeLessThan(-90);
});

test('source and removed are those of the track, held back by what the whole is late', () => {
  const monitor = createMonitor(full);
  monitor.setMix(withOther(other));
  monitor.setWhole(limiting);
  monitor.setLane('source');
  monitor.play(60_000);
  const { out, frames } = listen(monitor, 1.2);
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  const heard = out.subarray(first * 128, first * 128 + 20_000);
  expect(differenceDb(heard, compared(full), frames[first]!)).toBeLessThan(-90);
});

test('tracks that come and go, and another chain on the whole, while it plays: no click, and it goes on where it was', () => {
  const monitor = createMonitor(chain());
  monitor.play(30_000);
  const parts = [listen(monitor, 0.4).out];
  monitor.setMix(withOther(recording.map((x) => x / 4)));
  parts.push(listen(monitor, 0.4).out);
  monitor.setWhole(toned);
  parts.push(listen(monitor, 0.4).out);
  monitor.setWhole(chain({ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 400, gainDb: -3, q: 1 }] }));
  parts.push(listen(monitor, 0.2).out);
  monitor.setMix(alone);
  const { out, frames } = listen(monitor, 0.4);
  expect(largestStep(joined(...parts, out))).toBeLessThan(1.3);
  expect(frames[frames.length - 1]!).toBeGreaterThan(80_000);
});

test('it plays to the end of the longest track', () => {
  const long = noise(-30, recording.length / RATE_HZ + 0.5, 12);
  const monitor = createMonitor(chain());
  monitor.setMix(withOther(long));
  monitor.play(recording.length - 12_000);
  const { out, frames } = listen(monitor, 1);
  expect(Math.max(...frames)).toBeGreaterThanOrEqual(long.length - 128);
  expect(monitor.status).toBe('stopped');
  const after = frames.findIndex((frame) => frame > recording.length);
  expect(levelDb(out.subarray(after * 128, after * 128 + 9600))).toBeCloseTo(-30, 0);
});

/** Both channels of what a monitor gives, from where it has begun. */
function listenToBoth(monitor: ReturnType<typeof createMonitor>, seconds: number): Float32Array[] {
  const quanta = Math.round((seconds * RATE_HZ) / 128);
  const output = [new Float32Array(quanta * 128), new Float32Array(quanta * 128)];
  for (let q = 0; q < quanta; q++) monitor.process(output.map((samples) => samples.subarray(q * 128, q * 128 + 128)));
  return output;
}

test('tracks stand where they are panned to; one channel that is heard alone sounds on both sides', () => {
  const monitor = createMonitor(chain());
  monitor.play(20_000);
  const [left, right] = listenToBoth(monitor, 0.4);
  expect(left).toEqual(right);
  monitor.setMix({ channels: 2, ownGains: [Math.SQRT2, 0], beside: [beside(other, [0, 1])], lengthFrames: 0 });
  listenToBoth(monitor, 0.3);
  const both = listenToBoth(monitor, 0.4);
  const at = monitor.frame - both[0]!.length;
  expect(
    differenceDb(
      both[0]!,
      recording.map((x) => x * Math.SQRT2),
      at,
    ),
  ).toBeLessThan(-100);
  expect(differenceDb(both[1]!, other, at)).toBeLessThan(-100);
});

test('levels glide and tracks are muted without a stop', () => {
  const monitor = createMonitor(chain());
  const loud = other.map((x) => x * 4);
  monitor.setMix({ ...alone, beside: [beside(loud)] });
  monitor.play(20_000);
  listen(monitor, 0.3);
  const before = monitor.frame;
  const store = beside(loud);
  monitor.setMix({ ...alone, beside: [{ ...store, gains: [0, 0] }] });
  const { out, frames } = listen(monitor, 0.3);
  expect(frames[0]).toBe(before);
  expect(frames.every((frame, i) => i === 0 || frame === frames[i - 1]! + 128)).toBe(true);
  expect(differenceDb(out.subarray(4800, 9600), recording, before + 4800)).toBeLessThan(-100);
});

test('a track whose sound is not there yet comes in when it is; nothing waits for it', () => {
  const monitor = createMonitor(chain());
  monitor.play(20_000);
  listen(monitor, 0.2);
  const late = new ChunkStore(other.length);
  const track = { ...beside(other), store: late };
  monitor.setMix({ ...alone, beside: [track] });
  const before = monitor.frame;
  const first = listen(monitor, 0.2);
  expect(monitor.awaited).toBe(1);
  expect(differenceDb(first.out, recording, before)).toBeLessThan(-100);
  for (let i = 0; i * 32768 < other.length; i++) late.put(i, [Float32Array.from({ length: 32768 }, (_, n) => other[i * 32768 + n] ?? 0)]);
  listen(monitor, 0.1);
  const at = monitor.frame;
  const second = listen(monitor, 0.2);
  expect(monitor.awaited).toBe(0);
  expect(
    differenceDb(
      second.out,
      recording.map((x, n) => x + other[n]!),
      at,
    ),
  ).toBeLessThan(-100);
});
