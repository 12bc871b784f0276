import type { ChainSpec, KernelModule, NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, Levels, placedChain, placedProfile, profilePassages, type NoisePassageSpan } from '@euphonos/engine';
import type { TrackSound } from '../audio/arranged.js';
import { RecordingReader, type SampleSource } from '../audio/samples.js';
import { PreparedSound } from './prepared-sound.js';

/** A track that is heard beside the one that is worked on. */
export interface RestTrack {
  readonly id: string;
  /** Names all that its sound depends on: as long as it stays, what was made of the track goes on. */
  readonly key: string;
  readonly source: SampleSource & { readonly sampleRateHz: number };
  readonly sound: TrackSound;
  readonly chain: ChainSpec;
  /** The profile of its noise: a kept one, or the passages of the recording that it is taken from; null for none. */
  readonly noise: NoiseProfile | readonly NoisePassageSpan[] | null;
}

interface Part {
  readonly key: string;
  readonly prepared: PreparedSound;
  readonly levels: Levels;
  readonly chain: ChainSpec;
  /** Taken when the track is heard for the first time. */
  profile: Promise<NoiseProfile | undefined> | null;
  readonly track: RestTrack;
}

/** More tracks, or earlier states of them, are not held at once: twice as many as a session has. */
const MOST_PARTS = 64;

/** The other tracks, each through its chain and its clips' levels, in chunks for the monitor. Runs in a worker. */
export class RestSound {
  readonly #parts = new Map<string, Part>();
  /** Chunks that were made, by track and index, as long as there is room. */
  readonly #kept = new Map<string, { readonly chunks: Map<number, Promise<Float32Array[]>>; readonly bytes: number[] }>();
  #keptBytes = 0;

  constructor(
    private readonly kernels: KernelModule,
    /** So much of what was made is kept for whoever asks again; nobody may write into it. */
    private readonly mostBytes = 0,
  ) {}

  set(tracks: readonly RestTrack[]): void {
    const wanted = new Set(tracks.map(({ id }) => id));
    for (const id of this.#parts.keys()) if (!wanted.has(id)) this.#parts.delete(id);
    this.hold(tracks);
  }

  /** Besides what is there already; of too many, those that nobody asked for longest go. */
  hold(tracks: readonly RestTrack[]): void {
    for (const track of tracks) {
      const known = this.#parts.get(track.id);
      this.#parts.delete(track.id);
      this.#parts.set(track.id, known?.key === track.key ? known : this.#partOf(track));
      if (known && known.key !== track.key) this.#letGo(track.id);
    }
    for (const id of this.#parts.keys()) {
      if (this.#parts.size <= MOST_PARTS) break;
      this.#parts.delete(id);
      this.#letGo(id);
    }
  }

  #letGo(id: string): void {
    for (const bytes of this.#kept.get(id)?.bytes ?? []) this.#keptBytes -= bytes;
    this.#kept.delete(id);
  }

  #partOf(track: RestTrack): Part {
    const { source, sound, chain, key } = track;
    const prepared = new PreparedSound(source, this.kernels);
    prepared.setSound(sound);
    return {
      key,
      track,
      prepared,
      levels: Levels.of(sound.clips, source.lengthFrames, source.sampleRateHz),
      chain: placedChain(chain, sound.clips, source.sampleRateHz),
      profile: null,
    };
  }

  async #profileOf({ noise, source, chain, sound }: RestTrack): Promise<NoiseProfile | undefined> {
    if (noise === null || !Array.isArray(noise)) return (noise as NoiseProfile | null) ?? undefined;
    const reader = new RecordingReader(source);
    const context = { sampleRateHz: source.sampleRateHz, channels: source.channelCount, kernels: this.kernels };
    const profile = await profilePassages(context, chain, noise as readonly NoisePassageSpan[], (start, end) =>
      reader.read(start, Math.min(end, source.lengthFrames)),
    );
    return placedProfile(profile, sound.clips);
  }

  /** Chunk `index` of a track, with its own channels. */
  chunk(id: string, index: number): Promise<Float32Array[]> {
    const known = this.#kept.get(id)?.chunks.get(index);
    if (known) return known;
    const made = this.#make(id, index);
    const bytes = CHUNK_FRAMES * 4 * (this.#parts.get(id)?.track.source.channelCount ?? 1);
    // What was asked for longest ago makes room.
    for (const other of this.#parts.keys()) {
      if (this.#keptBytes + bytes <= this.mostBytes) break;
      if (other !== id) this.#letGo(other);
    }
    if (this.#keptBytes + bytes > this.mostBytes) return made;
    this.#keptBytes += bytes;
    const of = this.#kept.get(id) ?? { chunks: new Map<number, Promise<Float32Array[]>>(), bytes: [] };
    of.bytes.push(bytes);
    of.chunks.set(index, made);
    this.#kept.set(id, of);
    made.catch(() => of.chunks.delete(index));
    return made;
  }

  async #make(id: string, index: number): Promise<Float32Array[]> {
    const part = this.#parts.get(id);
    if (!part) throw new Error(`No track "${id}" is heard beside the one at work.`);
    part.profile ??= this.#profileOf(part.track);
    const profile = await part.profile.catch((error: unknown) => {
      part.profile = null;
      throw error;
    });
    const chunk = await part.prepared.chunk(part.key, part.chain, profile, index);
    part.levels.apply(chunk, 0, index * CHUNK_FRAMES, CHUNK_FRAMES);
    return chunk;
  }
}
