import { withoutDeep, type KernelModule, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import { chainRun, CHUNK_FRAMES } from '@euphonos/engine';
import { addUp, MixedSum, NO_GAIN, recordedChunks, type WholeMix } from './mixed-sum.js';
import type { RestSound } from './rest-sound.js';

/** Takes so many frames of a mix, one call after the other from its first. */
export type TakeSound = (channels: PlanarBlock, frames: number) => void;

/** A mix from its first frame to its last: as it was recorded, and at its levels through everything. */
export async function passMix(
  kernels: KernelModule,
  rest: RestSound,
  mix: WholeMix,
  noiseProfile: NoiseProfile | undefined,
  onSource: TakeSound,
  onResult: TakeSound,
): Promise<void> {
  const { tracks, channels, sampleRateHz, chain, lengthFrames } = mix;
  const context = { kernels, sampleRateHz, channels, ...(noiseProfile && { noiseProfile }) };
  const run = chainRun(context, withoutDeep(chain), (result, _, frames) => onResult(result, frames));
  const recorded = recordedChunks(kernels);
  const treated = new MixedSum(rest);
  for (let start = 0; start < lengthFrames; start += CHUNK_FRAMES) {
    const end = Math.min(lengthFrames, start + CHUNK_FRAMES);
    onSource(await addUp(tracks, channels, start, end, recorded, NO_GAIN), end - start);
    run.push(await treated.read(mix, start, end), end - start);
  }
  run.finish();
}
