import type { ChainSpec } from '@euphonos/dsp';
import { joined, levelDb, noise, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { chainRun } from '../offline/chain-run.js';
import { chain, compared, context, createMonitor, full, largestStep, listen, offline, recording, store } from '../testing/listening.js';

const other = noise(-30, recording.length / RATE_HZ, 11);
const limiting = chain({ kind: 'high-pass', cutoffHz: 60 }, { kind: 'gate', openDb: -60, closeDb: -65 });
const toned = chain({ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 400, gainDb: -9, q: 1 }] });

/** The render of the sum: the track through its chain, the others beside it, all through the chain on the whole. */
function mixed(spec: ChainSpec, rest: Float32Array | null, whole: ChainSpec): Float32Array {
  const own = offline(spec);
  const sum = rest ? own.map((x, n) => x + rest[n]!) : own;
  const parts: Float32Array[] = [];
  const run = chainRun(context, whole, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([sum], sum.length);
  run.finish();
  return joined(...parts);
}
function heardFrom(spec: ChainSpec, rest: Float32Array | null, whole: ChainSpec, start: number) {
  const monitor = createMonitor(spec);
  monitor.setRest(rest && store(rest));
  monitor.setWhole(whole);
  monitor.play(start);
  const { out, frames } = listen(monitor, 1.6);
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  return { heard: out.subarray(first * 128, first * 128 + RATE_HZ / 2), from: frames[first]! };
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

test('source and removed are those of the track, held back by what the whole is late', () => {
  const monitor = createMonitor(full);
  monitor.setRest(store(other));
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
  monitor.setRest(store(recording.map((x) => x / 4)));
  parts.push(listen(monitor, 0.4).out);
  monitor.setWhole(toned);
  parts.push(listen(monitor, 0.4).out);
  monitor.setWhole(chain({ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 400, gainDb: -3, q: 1 }] }));
  parts.push(listen(monitor, 0.2).out);
  monitor.setRest(null);
  const { out, frames } = listen(monitor, 0.4);
  expect(largestStep(joined(...parts, out))).toBeLessThan(1.3);
  expect(frames[frames.length - 1]!).toBeGreaterThan(80_000);
});

test('it plays to the end of the longest track', () => {
  const long = noise(-30, recording.length / RATE_HZ + 0.5, 12);
  const monitor = createMonitor(chain());
  monitor.setRest(store(long), long.length);
  monitor.play(recording.length - 12_000);
  const { out, frames } = listen(monitor, 1);
  expect(Math.max(...frames)).toBeGreaterThanOrEqual(long.length - 128);
  expect(monitor.status).toBe('stopped');
  const after = frames.findIndex((frame) => frame > recording.length);
  expect(levelDb(out.subarray(after * 128, after * 128 + 9600))).toBeCloseTo(-30, 0);
});
