import type { ChainSpec } from '@euphonos/dsp';
import { levelDb, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { AlignedRun, chainRun } from '../offline/chain-run.js';
import { partedChain, type Parting, type PartMemory } from '../offline/parted-chain.js';
import { talk } from './everything.js';
import { context, profile } from './listening.js';

export const room = { ...context, noiseProfile: profile };
export const twice = new Float32Array([...talk, ...talk]);

interface Made {
  readonly out: Float32Array;
  readonly source: Float32Array;
  readonly memories: Map<number, PartMemory>;
}

/** The sound through a parted chain, from where it begins; frames before what is right are left out. */
export function made(spec: ChainSpec, parting: Omit<Parting, 'onMemory'>, pushFrames = 5000, sound = twice): Made {
  const memories = new Map<number, PartMemory>();
  const parted = partedChain(room, spec, { ...parting, onMemory: (part, memory) => memories.set(part, memory) });
  const [out, source] = [new Float32Array(sound.length), new Float32Array(sound.length)];
  let at = parted.startFrame;
  const run = new AlignedRun(parted, 1, (processed, before, frames) => {
    out.set(processed[0]!.subarray(0, frames), at);
    source.set(before[0]!.subarray(0, frames), at);
    at += frames;
  });
  for (let from = parted.startFrame; from < sound.length; from += pushFrames)
    run.push([sound.subarray(from)], Math.min(pushFrames, sound.length - from));
  run.finish();
  return { out: out.subarray(parted.rightFrom), source, memories };
}

export function through(spec: ChainSpec, sound = twice): Float32Array {
  const out = new Float32Array(sound.length);
  let at = 0;
  const run = chainRun(room, spec, (processed, _, frames) => {
    out.set(processed[0]!.subarray(0, frames), at);
    at += frames;
  });
  run.push([sound], sound.length);
  run.finish();
  return out;
}

/** Largest difference, dBFS. */
export function differenceDb(a: Float32Array, b: Float32Array): number {
  let most = 0;
  for (let n = 0; n < a.length; n++) most = Math.max(most, Math.abs(a[n]! - b[n]!));
  return 20 * Math.log10(most + 1e-12);
}

/** Parts joined are the whole, to the bit; what ran through lies close to it at the joints. */
export function expectJoined(spec: ChainSpec, partFrames: number, sound: Float32Array): void {
  const whole = made(spec, { partFrames }, 5000, sound);
  expect(whole.out.length).toBe(sound.length);
  const one = through(spec, sound);
  expect(differenceDb(whole.out, one)).toBeLessThan(-85);
  for (const joint of [partFrames, 2 * partFrames]) {
    const second = Float32Array.from({ length: RATE_HZ }, (_, n) => whole.out[joint + n]! - one[joint + n]!);
    expect(levelDb(second)).toBeLessThan(-95);
  }
  expect([...whole.memories.keys()]).toEqual([1, 2]);
  const gone = made(spec, { partFrames, goOn: { part: 1, memory: whole.memories.get(1)! } }, 3333, sound);
  expect(differenceDb(gone.out, whole.out.subarray(partFrames))).toBe(-240);
  expect(gone.out.length).toBe(sound.length - partFrames);
}
