import {
  Chain,
  checkSound,
  takeFigures,
  type ChainSpec,
  type HeardListens,
  type KernelModule,
  type NoiseProfile,
  type SoundCheck,
  type TakeFigures,
} from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import { expose, transfer } from 'comlink';

const BLOCK_FRAMES = 4096;

/** What takes seconds to compute: beside the page, and beside what is recorded. */
const worker = {
  check: (kernels: KernelModule, sampleRateHz: number, heard: HeardListens): SoundCheck => checkSound(kernels, sampleRateHz, heard),

  /** A sound through a chain as a render makes it, in time with itself. */
  async treat(
    kernels: KernelModule,
    sampleRateHz: number,
    spec: ChainSpec,
    profile: NoiseProfile | null,
    sound: Float32Array,
  ): Promise<Float32Array> {
    await readyFor(spec);
    const chain = new Chain({ sampleRateHz, channels: 1, kernels, ...(profile && { noiseProfile: profile }) }, spec);
    const out = new Float32Array(sound.length + chain.latencyFrames);
    out.set(sound);
    for (let at = 0; at < out.length; at += BLOCK_FRAMES) {
      const part = out.subarray(at, at + BLOCK_FRAMES);
      chain.process([part], [part], part.length);
    }
    const treated = out.slice(chain.latencyFrames);
    return transfer(treated, [treated.buffer]);
  },

  figures: (kernels: KernelModule, sampleRateHz: number, sound: Float32Array): TakeFigures | null =>
    takeFigures(kernels, sound, sampleRateHz),
};
export type CheckWorker = typeof worker;
expose(worker);
