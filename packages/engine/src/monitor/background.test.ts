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

/** Largest step from sample to sample, as a share of the largest that the recording itself makes. */
function largestStep(samples: Float32Array): number {
  const most = (x: Float32Array): number => x.reduce((max, v, n) => (n === 0 ? 0 : Math.max(max, Math.abs(v - x[n - 1]!))), 0);
  return most(samples) / most(recording);
}

describe('what is rendered in the background', () => {
  const gained = (gain: number): ChunkStore => store(recording.map((x) => x * gain));

  test('is heard in place of the recording, while source stays the recording', () => {
    const monitor = new Monitor(context, recording.length, store());
    monitor.setChain({ treatments: [] }, undefined, gained(0.5));
    monitor.setLane('result');
    monitor.play(48_000);
    const { out, frames } = listen(monitor, 0.8);
    const from = frames.findIndex((frame) => frame >= 0) + 10;
    expect(levelDb(out, from * QUANTUM_FRAMES)).toBeCloseTo(levelDb(recording, 48_000, 48_000 + out.length) - 6, 0);
  });

  test('a new rendering is waited for while the one before goes on, then switched to without a step', () => {
    const monitor = createMonitor({ treatments: [] });
    monitor.play(0);
    listen(monitor, 0.5);
    const coming = new ChunkStore(recording.length);
    monitor.setChain({ treatments: [] }, profile, coming);
    const waiting = listen(monitor, 0.5);
    expect(waiting.frames.every((frame) => frame >= 0)).toBe(true);
    const ready = gained(0.25);
    const block = createBlock(1, CHUNK_FRAMES);
    for (let i = 0; i * CHUNK_FRAMES < recording.length; i++) {
      ready.read(i * CHUNK_FRAMES, block, 0, CHUNK_FRAMES);
      coming.put(i, [block[0]!.slice()]);
    }
    const { out, frames } = listen(monitor, 0.5);
    expect(frames.every((frame) => frame >= 0)).toBe(true);
    const last = frames[frames.length - 1]! - 40 * QUANTUM_FRAMES;
    expect(levelDb(out, out.length - 41 * QUANTUM_FRAMES, out.length - QUANTUM_FRAMES)).toBeCloseTo(levelDb(recording, last, last + 40 * QUANTUM_FRAMES) - 12, 0);
    expect(largestStep(out)).toBeLessThan(1.1);
  });
});

describe('one treatment heard alone', () => {
  test('is the difference that it makes, aligned to the sample', () => {
    const spec = chain({ kind: 'high-pass', id: 'a' }, { kind: 'hum-notch', id: 'b', harmonics: 2 }, { kind: 'gate', id: 'c' });
    const alone = offline({ ...spec, alone: 'b' });
    const [before, after] = [offline({ treatments: spec.treatments.slice(0, 1) }), offline({ treatments: spec.treatments.slice(0, 2) })];
    for (let n = 0; n < alone.length; n += 97) expect(alone[n]).toBeCloseTo(before[n]! - after[n]!, 7);
  });
});
