import { createBlock, withoutDeep, type ChainSpec, type KernelModule } from '@euphonos/dsp';
import { CHUNK_FRAMES, measureEffects, type Span } from '@euphonos/engine';
import { MOST_MEASURED_SECONDS, type Effects } from './figures-computer.js';
import { RestSound, type RestTrack } from './rest-sound.js';

/** The chain on the whole hears so much before what is measured. */
const LEAD_SECONDS = 0.5;

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
}

/** What each treatment of the chain on the whole does to the sum of all tracks, in a span of the session up to its first minute. Runs in a worker. */
export class WholeEffects {
  readonly #rest: RestSound;

  constructor(private readonly kernels: KernelModule) {
    this.#rest = new RestSound(kernels);
  }

  async measure({ tracks, channels, sampleRateHz, chain }: WholeMix, span: Span): Promise<Effects> {
    this.#rest.set(tracks.map(({ track }) => track));
    const lead = Math.max(0, Math.round(span.startFrame - LEAD_SECONDS * sampleRateHz));
    const end = Math.min(span.endFrame, span.startFrame + MOST_MEASURED_SECONDS * sampleRateHz);
    const sum = createBlock(channels, Math.max(0, end - lead));
    for (let index = Math.floor(lead / CHUNK_FRAMES); index * CHUNK_FRAMES < end; index++)
      for (const { track, gains } of tracks) {
        const chunk = await this.#rest.chunk(track.id, index);
        const first = Math.max(lead, index * CHUNK_FRAMES);
        const last = Math.min(end, (index + 1) * CHUNK_FRAMES);
        for (let c = 0; c < channels; c++) {
          const from = chunk[c] ?? chunk[0]!;
          for (let frame = first; frame < last; frame++) sum[c]![frame - lead]! += gains[c]! * from[frame - index * CHUNK_FRAMES]!;
        }
      }
    return measureEffects(
      { kernels: this.kernels, sampleRateHz, channels, startFrame: lead },
      withoutDeep(chain),
      sum,
      span.startFrame - lead,
    );
  }
}
