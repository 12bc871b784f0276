import {
  gainToDb,
  MAX_BLOCK_FRAMES,
  powerToDb,
  powerToLufs,
  TrackListener,
  whoSpeaks,
  type KernelModule,
  type Listened,
  type Spoken,
} from '@euphonos/dsp';
import { atLevel, clipEnd, CHUNK_FRAMES, noiseUnderBed, speechOverBed, type NoiseUnderBed, type SpeechOverBed } from '@euphonos/engine';
import type { MixedTrack } from './mixed-sum.js';
import type { RestSound, RestTrack } from './rest-sound.js';

/** Speech and a bed as they stand in the mix. */
export interface SpeechRequest {
  readonly speech: readonly MixedTrack[];
  readonly bed: MixedTrack;
  readonly channels: number;
  readonly sampleRateHz: number;
  readonly lengthFrames: number;
}

export interface SpeechInMix {
  /** Where somebody speaks, a list for each track of the request. */
  readonly talk: readonly (readonly Spoken[])[];
  readonly over: SpeechOverBed;
  /** What of the noise of the speech tracks lies under the bed; null where there is none of it. */
  readonly noise: NoiseUnderBed | null;
}

/** So many states of tracks are remembered: those of two sessions. */
const MOST_KEPT = 64;

/** Who speaks when in the mix, and how far that stands above a bed. Runs in a worker. */
export class SpeechListener {
  readonly #kept = new Map<string, Promise<Listened>>();

  constructor(
    private readonly kernels: KernelModule,
    private readonly rest: RestSound,
  ) {}

  async measure(request: SpeechRequest): Promise<SpeechInMix> {
    const listeners: Listened[] = [];
    // One after the other: all of them want the same tracks' sound.
    for (const one of request.speech) listeners.push(await this.#listen(one, request));
    const bed = await this.#listen(request.bed, request);
    const scales = request.speech.map(({ gains }) => scaleOf(gains));
    const talk = this.#talkOf(request.speech, listeners);
    const scaled = ({ powers }: Listened, scale: number): Float32Array => powers.map((power) => power * scale * scale);
    const powers = listeners.map((listener, i) => scaled(listener, scales[i]!));
    const under = scaled(bed, scaleOf(request.bed.gains));
    const over = speechOverBed(powers, under, bed.stepSeconds, talk.flat());
    // In turns only one of them is there at a time: so many at once, of all.
    const at = request.speech.reduce((sum, { track }) => sum + soundingFrames(track), 0) / request.lengthFrames;
    const shareDb = powerToDb(Math.max(1, at) / Math.max(1, request.speech.length));
    const noises = listeners.flatMap(({ noise }, i) => (noise ? [atLevel(noise, gainToDb(scales[i]!) + shareDb)] : []));
    // Its tone is that of where it is loud; while somebody speaks it may be turned down.
    const downDb = over.bedLufs === null ? 0 : over.bedLufs - powerToLufs(loudMean(under));
    const music = bed.tone && atLevel(bed.tone, gainToDb(scaleOf(request.bed.gains)) + downDb);
    return { talk, over, noise: music && noiseUnderBed(noises, music, request.sampleRateHz) };
  }

  /** Where somebody speaks on each of these tracks, and how loud. */
  async talk(speech: readonly MixedTrack[], request: Omit<SpeechRequest, 'speech' | 'bed'>): Promise<(readonly Spoken[])[]> {
    const listeners: Listened[] = [];
    for (const one of speech) listeners.push(await this.#listen(one, request));
    return this.#talkOf(speech, listeners);
  }

  /** Heard as loud as it is recorded: another level is a factor. */
  #talkOf(speech: readonly MixedTrack[], listeners: readonly Listened[]): (readonly Spoken[])[] {
    return whoSpeaks(listeners).map((spans, i) =>
      spans.map((span) => ({ ...span, lufs: Math.round(10 * (span.lufs + gainToDb(scaleOf(speech[i]!.gains)))) / 10 })),
    );
  }

  #listen(one: MixedTrack, request: Omit<SpeechRequest, 'speech' | 'bed'>): Promise<Listened> {
    const key = JSON.stringify([one.track.id, placeOf(one.gains), request.channels, request.lengthFrames]);
    const known = this.#kept.get(key);
    this.#kept.delete(key);
    const made = known ?? this.#heard(one, request);
    this.#kept.set(key, made);
    made.catch(() => this.#kept.delete(key));
    for (const old of this.#kept.keys()) {
      if (this.#kept.size <= MOST_KEPT) break;
      this.#kept.delete(old);
    }
    return made;
  }

  async #heard(
    { track, gains }: MixedTrack,
    { channels, sampleRateHz, lengthFrames }: Omit<SpeechRequest, 'speech' | 'bed'>,
  ): Promise<Listened> {
    const place = placeOf(gains);
    const listener = new TrackListener(this.kernels, sampleRateHz, channels);
    for (let start = 0; start < lengthFrames; start += CHUNK_FRAMES) {
      this.rest.hold([track]);
      const chunk = await this.rest.chunk(track.id, start / CHUNK_FRAMES);
      const frames = Math.min(CHUNK_FRAMES, lengthFrames - start);
      const placed = Array.from({ length: channels }, (_, c) => (chunk[c] ?? chunk[0]!).subarray(0, frames).map((x) => x * place[c]!));
      for (let at = 0; at < frames; at += MAX_BLOCK_FRAMES)
        listener.process(
          placed.map((samples) => samples.subarray(at, at + MAX_BLOCK_FRAMES)),
          Math.min(MAX_BLOCK_FRAMES, frames - at),
        );
    }
    return listener.finish();
  }
}

const soundingFrames = ({ sound }: RestTrack): number => sound.clips.reduce((sum, clip) => sum + clipEnd(clip) - clip.startFrame, 0);

/** Mean of the louder half. */
function loudMean(powers: Float32Array): number {
  const louder = Float32Array.from(powers)
    .sort()
    .subarray(powers.length >> 1);
  return louder.reduce((sum, power) => sum + power, 0) / Math.max(1, louder.length);
}

/** How loud a track is, and where it stands: the first is nothing to who speaks on it. */
const scaleOf = ([left, right]: readonly [number, number]): number => Math.max(left, right);
const placeOf = (gains: readonly [number, number]): readonly number[] =>
  gains.map((gain) => Math.round((1e6 * gain) / Math.max(1e-9, scaleOf(gains))) / 1e6);
