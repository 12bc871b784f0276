import { makeRoomTone, type KernelModule, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import {
  arrangedFrames,
  CHUNK_FRAMES,
  plainClip,
  readArranged,
  spanFrames,
  clipNeedsProfile,
  noisePlan,
  type Arrangement,
  type Clip,
  type ClipNoise,
  type Span,
  type Track,
} from '@euphonos/engine';
import { RecordingReader, type SampleSource } from './samples.js';

/** What a track is made of, as it travels to workers: everything but the samples. */
export interface TrackSound {
  readonly clips: readonly Clip[];
  readonly roomTone: Span | null;
  /** What is known of the track's noise, where a clip has a chain of its own that weighs by it. */
  readonly noise?: ClipNoise;
}

/** `kept` is the profile of the track, where it uses one that was kept. */
export function soundOf(track: Pick<Track, 'clips' | 'roomTone' | 'noise' | 'reel'>, kept: NoiseProfile | null = null): TrackSound {
  const { clips, roomTone, noise } = track;
  const weighs = noise !== null && clips.some(({ chain }) => chain !== null && clipNeedsProfile(chain));
  return weighs ? { clips, roomTone, noise: noise.kind === 'kept' ? kept : noisePlan(track) } : { clips, roomTone };
}

/** A recording as it is, from its first frame to its last. */
export const wholeSound = (source: SampleSource): TrackSound => ({
  clips: [plainClip('c1', 0, { startFrame: 0, endFrame: source.lengthFrames })],
  roomTone: null,
});

/** Samples of a track before its chain, wherever they are needed: for the ear, for figures. */
export class ArrangedReader {
  #sound: TrackSound;
  /** Some clip has a chain of its own. */
  #treats = false;
  #tone: Promise<PlanarBlock | null> = Promise.resolve(null);
  #toneOf = '';
  readonly #recording: RecordingReader;

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    sound: TrackSound = wholeSound(source),
    recording = new RecordingReader(source),
    private readonly kernels: KernelModule | (() => Promise<KernelModule>) | null = null,
  ) {
    this.#recording = recording;
    this.#sound = sound;
    this.set(sound);
  }

  get sound(): TrackSound {
    return this.#sound;
  }

  get clips(): readonly Clip[] {
    return this.#sound.clips;
  }

  get lengthFrames(): number {
    return arrangedFrames(this.#sound);
  }

  set(sound: TrackSound): void {
    this.#sound = sound;
    this.#treats = sound.clips.some(({ chain }) => chain !== null);
    const key = JSON.stringify(sound.roomTone);
    if (key === this.#toneOf) return;
    this.#toneOf = key;
    this.#tone = sound.roomTone ? this.#makeTone(sound.roomTone) : Promise.resolve(null);
    this.#tone.catch(() => (this.#toneOf = ''));
  }

  async #makeTone(span: Span): Promise<PlanarBlock> {
    const passage = await this.#recording.read(span.startFrame, span.startFrame + spanFrames(span));
    return makeRoomTone(passage, this.source.sampleRateHz);
  }

  /** Frames [startFrame, endFrame) of the session; silence after its end. */
  async read(startFrame: number, endFrame: number): Promise<Float32Array[]> {
    const { clips } = this.#sound;
    const kernels = !this.#treats ? null : typeof this.kernels === 'function' ? await this.kernels() : this.kernels;
    const arrangement: Arrangement = {
      clips,
      recordingFrames: this.source.lengthFrames,
      sampleRateHz: this.source.sampleRateHz,
      tone: await this.#tone,
      noise: this.#sound.noise,
      ...(kernels ? { kernels } : {}),
    };
    return readArranged(arrangement, this.source.channelCount, this.#recording.read, startFrame, endFrame);
  }

  /** One chunk for the monitor. */
  chunk(index: number): Promise<Float32Array[]> {
    return this.read(index * CHUNK_FRAMES, (index + 1) * CHUNK_FRAMES);
  }
}
