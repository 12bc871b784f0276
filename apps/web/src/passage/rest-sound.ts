import { createBlock, dbToGain, type ChainSpec, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, Levels, placedChain, profilePassages, type Span } from '@euphonos/engine';
import type { TrackSound } from '../audio/arranged.js';
import { RecordingReader, type SampleSource } from '../audio/samples.js';
import { PreparedSound } from './prepared-sound.js';

/** A track that is heard beside the one that is worked on. */
export interface RestTrack {
  readonly source: SampleSource & { readonly sampleRateHz: number };
  readonly sound: TrackSound;
  readonly chain: ChainSpec;
  readonly gainDb: number;
  /** The profile of its noise: a kept one, or the passages of the recording that it is taken from; null for none. */
  readonly noise: NoiseProfile | readonly Span[] | null;
}

/** The other tracks, each through its chain and its clips' levels, mixed in chunks for the monitor. Runs in a worker. */
export class RestSound {
  readonly #parts: readonly {
    readonly track: RestTrack;
    readonly prepared: PreparedSound;
    readonly levels: Levels;
    readonly chain: ChainSpec;
    readonly profile: Promise<NoiseProfile | undefined>;
  }[];

  constructor(
    tracks: readonly RestTrack[],
    private readonly kernels: KernelModule,
  ) {
    this.#parts = tracks.map((track) => {
      const { source, sound, chain } = track;
      const prepared = new PreparedSound(source, kernels);
      prepared.setSound(sound);
      const profile = this.#profileOf(track);
      profile.catch(() => undefined);
      return {
        track,
        prepared,
        levels: Levels.of(sound.clips, source.lengthFrames, source.sampleRateHz),
        chain: placedChain(chain, sound.clips, source.sampleRateHz),
        profile,
      };
    });
  }

  async #profileOf({ noise, source, chain }: RestTrack): Promise<NoiseProfile | undefined> {
    if (noise === null || !Array.isArray(noise)) return (noise as NoiseProfile | null) ?? undefined;
    const reader = new RecordingReader(source);
    const context = { sampleRateHz: source.sampleRateHz, channels: source.channelCount, kernels: this.kernels };
    return profilePassages(context, chain, noise as readonly Span[], (start, end) =>
      reader.read(start, Math.min(end, source.lengthFrames)),
    );
  }

  /** Chunk `index` of their sum; a mono track sounds on every channel. */
  async chunk(index: number, channels: number): Promise<Float32Array[]> {
    const sum = createBlock(channels, CHUNK_FRAMES);
    for (const { track, prepared, levels, chain, profile } of this.#parts) {
      const part = await prepared.chunk('rest', chain, await profile, index);
      levels.apply(part, 0, index * CHUNK_FRAMES, CHUNK_FRAMES);
      const gain = dbToGain(track.gainDb);
      sum.forEach((samples, c) => {
        const from = part[c] ?? part[0]!;
        for (let n = 0; n < CHUNK_FRAMES; n++) samples[n]! += gain * from[n]!;
      });
    }
    return sum;
  }
}
