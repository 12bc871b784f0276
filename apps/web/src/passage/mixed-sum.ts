import { createBlock, type ChainSpec } from '@euphonos/dsp';
import { CHUNK_FRAMES } from '@euphonos/engine';
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

/** The sum of all tracks, each through its chain, as the chain on the whole hears it. Runs in a worker. */
export class MixedSum {
  constructor(private readonly rest: RestSound) {}

  /** All tracks together, in [startFrame, endFrame) of the session. */
  async read({ tracks, channels }: WholeMix, startFrame: number, endFrame: number): Promise<Float32Array[]> {
    this.rest.hold(tracks.map(({ track }) => track));
    const sum = createBlock(channels, Math.max(0, endFrame - startFrame));
    for (let index = Math.floor(startFrame / CHUNK_FRAMES); index * CHUNK_FRAMES < endFrame; index++)
      for (const { track, gains } of tracks) {
        const chunk = await this.rest.chunk(track.id, index);
        const first = Math.max(startFrame, index * CHUNK_FRAMES);
        const last = Math.min(endFrame, (index + 1) * CHUNK_FRAMES);
        for (let c = 0; c < channels; c++) {
          const from = chunk[c] ?? chunk[0]!;
          for (let frame = first; frame < last; frame++) sum[c]![frame - startFrame]! += gains[c]! * from[frame - index * CHUNK_FRAMES]!;
        }
      }
    return sum;
  }
}
