import { createBlock, withoutDeep, type KernelModule, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import { chainRun, CHUNK_FRAMES } from '@euphonos/engine';
import { ArrangedReader } from '../audio/arranged.js';
import type { WholeMix } from './mixed-sum.js';
import type { RestSound } from './rest-sound.js';

/** Takes so many frames of a mix, one call after the other from its first. */
export type TakeSound = (channels: PlanarBlock, frames: number) => void;

/** A mix from its first frame to its last: as it was recorded, and at its levels through everything. */
export async function passMix(
  kernels: KernelModule,
  rest: RestSound,
  { tracks, channels, sampleRateHz, chain, lengthFrames }: WholeMix,
  noiseProfile: NoiseProfile | undefined,
  onSource: TakeSound,
  onResult: TakeSound,
): Promise<void> {
  const readers = tracks.map(({ track }) => new ArrangedReader(track.source, track.sound, undefined, kernels));
  const context = { kernels, sampleRateHz, channels, ...(noiseProfile && { noiseProfile }) };
  const run = chainRun(context, withoutDeep(chain), (result, _, frames) => onResult(result, frames));
  for (let start = 0; start < lengthFrames; start += CHUNK_FRAMES) {
    rest.hold(tracks.map(({ track }) => track));
    const frames = Math.min(CHUNK_FRAMES, lengthFrames - start);
    const sums = [createBlock(channels, frames), createBlock(channels, frames)] as const;
    for (const [i, { track, gains }] of tracks.entries()) {
      const index = start / CHUNK_FRAMES;
      const sounds = [await readers[i]!.chunk(index), await rest.chunk(track.id, index)] as const;
      sums.forEach((sum, which) => {
        for (let c = 0; c < channels; c++) {
          const from = sounds[which]![c] ?? sounds[which]![0]!;
          const gain = which === 0 ? 1 : gains[c]!;
          for (let n = 0; n < frames; n++) sum[c]![n]! += gain * (from[n] ?? 0);
        }
      });
    }
    onSource(sums[0], frames);
    run.push(sums[1], frames);
  }
  run.finish();
}
