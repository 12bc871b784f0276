import { createBlock, memoryKey, parseChain, takeNoiseProfile, turned, type ChainSpec } from '@euphonos/dsp';
import { joined, kernels, mixed, noise, RATE_HZ, sine } from '../../../dsp/src/testing/signals.js';
import { chainRun } from '../offline/chain-run.js';
import type { Memories } from '../monitor/memories.js';
import { Monitor } from '../monitor/monitor.js';
import { MemoryPass } from '../monitor/memory-pass.js';
import { CHUNK_FRAMES, ChunkStore } from '../monitor/sample-store.js';
import { QUANTUM_FRAMES } from '../monitor/voice.js';

export const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
/** Noise, a "word" (a swelling chord), noise: 3 s. */
export const recording = ((): Float32Array => {
  const word = mixed(sine(180, -18, 1), sine(360, -24, 1)).map((x, n) => x * Math.sin((Math.PI * n) / 48000));
  return mixed(joined(new Float32Array(48000), word, new Float32Array(48000)), noise(-50, 3, 1));
})();
export const profile = takeNoiseProfile(kernels, [recording.subarray(0, 40000)], RATE_HZ);
export const chain = (...treatments: object[]): ChainSpec => parseChain({ treatments });
export const full = chain({ kind: 'high-pass' }, { kind: 'hum-notch' }, { kind: 'noise-reduction' }, { kind: 'gate' });

export function store(samples = recording): ChunkStore {
  const chunks = new ChunkStore(samples.length);
  for (let i = 0; i * CHUNK_FRAMES < samples.length; i++) {
    const chunk = new Float32Array(CHUNK_FRAMES);
    chunk.set(samples.subarray(i * CHUNK_FRAMES, (i + 1) * CHUNK_FRAMES));
    chunks.put(i, [chunk]);
  }
  return chunks;
}

export function createMonitor(spec: ChainSpec = full, samples = recording): Monitor {
  const monitor = new Monitor(context, { store: store(samples), lengthFrames: samples.length, levels: null });
  monitor.setChain(spec, profile);
  return monitor;
}

/** What a chain remembers of a recording, from one pass over it. */
export function memoriesOf(spec: ChainSpec, samples = recording): Memories {
  const pass = new MemoryPass({ ...context, noiseProfile: profile }, spec, spec, samples.length, memoryKey(spec));
  pass.push([samples], samples.length);
  return pass.memories;
}

/** What comes out over a number of quanta, with the frame that sounds at each start. */
export function listen(
  monitor: Monitor,
  seconds: number,
  at: (quantum: number) => void = () => undefined,
): { out: Float32Array; frames: number[] } {
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

/** The source as it is compared with what a chain makes of it. */
export const compared = (spec: ChainSpec, samples = recording): Float32Array => turned(context, spec, [samples])[0]!;

export function offline(spec: ChainSpec, samples = recording): Float32Array {
  const parts: Float32Array[] = [];
  const run = chainRun({ ...context, noiseProfile: profile }, spec, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([samples], samples.length);
  run.finish();
  return joined(...parts);
}

/** Largest step from sample to sample, as a share of the largest that the recording itself makes. */
export function largestStep(samples: Float32Array): number {
  const most = (x: Float32Array): number => x.reduce((max, v, n) => (n === 0 ? 0 : Math.max(max, Math.abs(v - x[n - 1]!))), 0);
  return most(samples) / most(recording);
}
