import { createBlock, parseChain, takeNoiseProfile, type ChainSpec } from '@euphonos/dsp';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, sine } from '../../../dsp/src/testing/signals.js';
import { chainRun } from '../offline/chain-run.js';
import { Monitor } from './monitor.js';
import { CHUNK_FRAMES, ChunkStore } from './sample-store.js';
import { QUANTUM_FRAMES } from './voice.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
/** Noise, a "word" (a swelling chord), noise: 3 s. */
const recording = ((): Float32Array => {
  const word = mixed(sine(180, -18, 1), sine(360, -24, 1)).map((x, n) => x * Math.sin((Math.PI * n) / 48000));
  return mixed(joined(new Float32Array(48000), word, new Float32Array(48000)), noise(-50, 3, 1));
})();
const profile = takeNoiseProfile(kernels, [recording.subarray(0, 40000)], RATE_HZ);
const chain = (...treatments: object[]): ChainSpec => parseChain({ treatments });
const full = chain({ kind: 'high-pass' }, { kind: 'hum-notch' }, { kind: 'noise-reduction' }, { kind: 'gate' });

function store(samples = recording): ChunkStore {
  const chunks = new ChunkStore(samples.length);
  for (let i = 0; i * CHUNK_FRAMES < samples.length; i++) {
    const chunk = new Float32Array(CHUNK_FRAMES);
    chunk.set(samples.subarray(i * CHUNK_FRAMES, (i + 1) * CHUNK_FRAMES));
    chunks.put(i, [chunk]);
  }
  return chunks;
}

function createMonitor(spec: ChainSpec = full, samples = recording): Monitor {
  const monitor = new Monitor(context, samples.length, store(samples));
  monitor.setChain(spec, profile);
  return monitor;
}

/** What comes out over a number of quanta, with the frame that sounds at each start. */
function listen(monitor: Monitor, seconds: number, at: (quantum: number) => void = () => undefined): { out: Float32Array; frames: number[] } {
  const quanta = Math.round((seconds * RATE_HZ) / QUANTUM_FRAMES);
  const out = new Float32Array(quanta * QUANTUM_FRAMES);
  const frames: number[] = [];
  const block = createBlock(1, QUANTUM_FRAMES);
  for (let q = 0; q < quanta; q++) {
    at(q);
    frames.push(monitor.status === 'playing' ? monitor.frame : -1);
    monitor.process(block);
    out.set(block[0]!, q * QUANTUM_FRAMES);
  }
  return { out, frames };
}

function offline(spec: ChainSpec): Float32Array {
  const parts: Float32Array[] = [];
  const run = chainRun({ ...context, noiseProfile: profile }, spec, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([recording], recording.length);
  run.finish();
  return joined(...parts);
}

/** How far what is heard from 1.2 s on lies from what a render makes of it, dBFS. */
function disagreementDb(spec: ChainSpec): number {
  const monitor = createMonitor(spec);
  const start = Math.round(1.2 * RATE_HZ);
  monitor.play(start);
  const { out, frames } = listen(monitor, 1.4);
  const render = offline(spec);
  // From a few milliseconds after the start, when the fade is over.
  const first = frames.findIndex((frame) => frame >= 0) + 12;
  const from = first * QUANTUM_FRAMES;
  const length = Math.min(out.length - from, RATE_HZ);
  const difference = Float32Array.from({ length }, (_, n) => out[from + n]! - render[frames[first]! + n]!);
  return levelDb(difference);
}

test.each([
  ['channels', { polarity: 'first' }, -90],
  ['plosives', {}, -90],
  ['tone', { bands: [{ shape: 'low-shelf', frequencyHz: 150, gainDb: -6, q: 0.7 }, { shape: 'bell', frequencyHz: 360, gainDb: 4, q: 2 }] }, -90],
  ['room', {}, -90],
  ['sibilance', {}, -90],
  // These remember more than the run-in of 0.4 s: the level of a voice, the lines of a hum. Here they start from noise.
  ['hum-lines', {}, -60],
  ['hum-notch', { drift: 'follow' }, -60],
])('%s: what is heard is what is rendered', (kind, settings, limit) => {
  expect(disagreementDb(chain({ kind, ...settings }))).toBeLessThan(limit);
});
