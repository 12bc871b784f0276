import { createBlock, type ChainSpec, type KernelModule } from '@euphonos/dsp';
import { CHUNK_FRAMES } from '@euphonos/engine';
import { ArrangedReader } from '../audio/arranged.js';
import type { RestSound, RestTrack } from './rest-sound.js';

/** A track of the mix: its sound, and how loud it is on the left and on the right. */
export interface MixedTrack {
  readonly track: RestTrack;
  readonly gains: readonly [number, number];
}

/** Everything that is mixed, and what treats the sum of it. */
export interface WholeMix {
  readonly tracks: readonly MixedTrack[];
  readonly channels: number;
  readonly sampleRateHz: number;
  readonly chain: ChainSpec;
  readonly lengthFrames: number;
}

/** Adds pieces of tracks up: frames [startFrame, endFrame) of the session, each channel at its gain; a track of one channel is on all of them. */
export async function addUp(
  tracks: readonly MixedTrack[],
  channels: number,
  startFrame: number,
  endFrame: number,
  chunk: (track: RestTrack, index: number) => Promise<readonly Float32Array[]>,
  gainOf: (mixed: MixedTrack, channel: number) => number = ({ gains }, c) => gains[c]!,
): Promise<Float32Array[]> {
  const sum = createBlock(channels, Math.max(0, endFrame - startFrame));
  for (let index = Math.floor(startFrame / CHUNK_FRAMES); index * CHUNK_FRAMES < endFrame; index++)
    for (const mixed of tracks) {
      const sound = await chunk(mixed.track, index);
      const first = Math.max(startFrame, index * CHUNK_FRAMES);
      const last = Math.min(endFrame, (index + 1) * CHUNK_FRAMES);
      for (let c = 0; c < channels; c++) {
        const from = sound[c] ?? sound[0]!;
        const to = sum[c]!;
        const gain = gainOf(mixed, c);
        for (let frame = first; frame < last; frame++) to[frame - startFrame]! += gain * (from[frame - index * CHUNK_FRAMES] ?? 0);
      }
    }
  return sum;
}

/** Pieces of tracks as they were recorded, by the track and the number of the piece. */
export function recordedChunks(kernels: KernelModule): (track: RestTrack, index: number) => Promise<readonly Float32Array[]> {
  const readers = new Map<RestTrack, ArrangedReader>();
  return (track, index) => {
    const known = readers.get(track) ?? new ArrangedReader(track.source, track.sound, undefined, kernels);
    readers.set(track, known);
    return known.chunk(index);
  };
}
/** As it was recorded nothing is louder than another. */
export const NO_GAIN = (): number => 1;

/** The sum of all tracks, each through its chain, as the chain on the whole hears it. Runs in a worker. */
export class MixedSum {
  constructor(private readonly rest: RestSound) {}

  /** All tracks together, in [startFrame, endFrame) of the session. */
  read({ tracks, channels }: WholeMix, startFrame: number, endFrame: number): Promise<Float32Array[]> {
    this.rest.hold(tracks.map(({ track }) => track));
    return addUp(tracks, channels, startFrame, endFrame, ({ id }, index) => this.rest.chunk(id, index));
  }
}
