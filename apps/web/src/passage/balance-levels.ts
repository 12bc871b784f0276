import {
  courseOf,
  MAX_BLOCK_FRAMES,
  SoundMeasure,
  TruePeakMeter,
  type KernelModule,
  type LoudnessCourse,
  type NoiseProfile,
  type PlanarBlock,
} from '@euphonos/dsp';
import { CHUNK_FRAMES, clipEnd, endOf, levelOf, PEAK_STEP_SECONDS, type Level, type MeasuredLevel } from '@euphonos/engine';
import { ArrangedReader } from '../audio/arranged.js';
import { passMix, type TakeSound } from './mix-pass.js';
import type { WholeMix } from './mixed-sum.js';
import { RestSound, type RestTrack } from './rest-sound.js';

/** What a track and each of its clips measure. */
export interface TrackLevels {
  readonly track: MeasuredLevel;
  readonly clips: Readonly<Record<string, MeasuredLevel>>;
}

/** A mix over time, and what it measures. */
export interface MixLoudness {
  readonly before: LoudnessCourse;
  readonly after: LoudnessCourse;
  /** Highest true peak of every half second after, dBTP; -100 for silence. */
  readonly peaksDbtp: readonly number[];
  readonly level: Level;
}

/** More clips than this are not measured one by one. */
export const MOST_CLIPS = 400;

/** How loud tracks, clips and the mix are, before and after all that is done to them. Runs in a worker. */
export class BalanceLevels {
  constructor(
    private readonly kernels: KernelModule,
    private readonly rest = new RestSound(kernels),
  ) {}

  #measure(sampleRateHz: number, channels: number): SoundMeasure {
    return new SoundMeasure(this.kernels, sampleRateHz, channels);
  }

  /**
   * A track as it comes out of its chain with its clips' levels, where it stands in the mix (`place`: a factor for each of its channels),
   * and as it was recorded, on all of them; its own level among the others is left out.
   */
  async track(track: RestTrack, place: readonly number[]): Promise<TrackLevels> {
    const { source, sound } = track;
    const { sampleRateHz } = source;
    const asRecorded = place.map(() => 1);
    const reader = new ArrangedReader(source, sound, undefined, this.kernels);
    const made = (): readonly [SoundMeasure, SoundMeasure] => [
      this.#measure(sampleRateHz, place.length),
      this.#measure(sampleRateHz, place.length),
    ];
    const whole = made();
    const clips: Record<string, MeasuredLevel> = {};
    let clip = 0;
    let ofClip: readonly [SoundMeasure, SoundMeasure] | null = null;
    const length = endOf(sound.clips);
    for (let index = Math.floor(sound.clips[0]!.startFrame / CHUNK_FRAMES); index * CHUNK_FRAMES < length; index++) {
      this.rest.hold([track]);
      const start = index * CHUNK_FRAMES;
      const end = Math.min(length, start + CHUNK_FRAMES);
      const both = [placed(await reader.chunk(index), asRecorded), placed(await this.rest.chunk(track.id, index), place)] as const;
      const feed = (into: readonly SoundMeasure[], from: number, to: number): void =>
        into.forEach((measure, i) => take(measure, both[i]!, from - start, to - start));
      feed(whole, Math.max(start, sound.clips[0]!.startFrame), end);
      for (; clip < Math.min(sound.clips.length, MOST_CLIPS); clip++) {
        const one = sound.clips[clip]!;
        if (one.startFrame >= end) break;
        ofClip ??= made();
        feed(ofClip, Math.max(start, one.startFrame), Math.min(end, clipEnd(one)));
        if (clipEnd(one) > end) break;
        clips[one.id] = measured(ofClip);
        ofClip = null;
      }
    }
    return { track: measured(whole), clips };
  }

  /** All of them together: as they were recorded, and at their levels through everything. */
  async mix(mix: WholeMix, noiseProfile?: NoiseProfile): Promise<MixLoudness> {
    const { channels, sampleRateHz } = mix;
    const [before, after] = [this.#measure(sampleRateHz, channels), this.#measure(sampleRateHz, channels)];
    const peaks = new HalfSeconds(this.kernels, sampleRateHz, channels);
    const onResult: TakeSound = (result, frames) => {
      take(after, result, 0, frames);
      peaks.process(result, frames);
    };
    await passMix(this.kernels, this.rest, mix, noiseProfile, (source, frames) => take(before, source, 0, frames), onResult);
    const level = levelOf(after.finish());
    return { before: courseOf(before.loudness), after: courseOf(after.loudness), peaksDbtp: peaks.finish(), level };
  }
}

/** True peaks of half seconds. */
class HalfSeconds {
  readonly #meter: TruePeakMeter;
  readonly #found: number[] = [];
  readonly #stepFrames: number;
  #fill = 0;

  constructor(kernels: KernelModule, sampleRateHz: number, channels: number) {
    this.#meter = new TruePeakMeter(kernels, channels);
    this.#stepFrames = Math.round(PEAK_STEP_SECONDS * sampleRateHz);
  }

  process(block: PlanarBlock, frames: number): void {
    for (let at = 0; at < frames;) {
      const count = Math.min(frames - at, this.#stepFrames - this.#fill);
      this.#meter.process(
        block.map((samples) => samples.subarray(at, at + count)),
        count,
      );
      at += count;
      this.#fill += count;
      if (this.#fill === this.#stepFrames) this.#take();
    }
  }

  finish(): number[] {
    this.#meter.finish();
    if (this.#fill > 0) this.#take();
    return this.#found;
  }

  #take(): void {
    this.#found.push(Math.max(-100, this.#meter.takePeak()));
    this.#fill = 0;
  }
}

const measured = ([before, after]: readonly [SoundMeasure, SoundMeasure]): MeasuredLevel => ({
  before: levelOf(before.finish()),
  after: levelOf(after.finish()),
});

/** Channels of a track where they stand in a mix. */
const placed = (channels: readonly Float32Array[], place: readonly number[]): Float32Array[] =>
  place.map((gain, c) => {
    const samples = channels[c] ?? channels[0]!;
    return gain === 1 ? samples : samples.map((x) => x * gain);
  });

/** Feeds frames [from, to) in pieces that a measure takes. */
function take(measure: SoundMeasure, channels: readonly Float32Array[], from: number, to: number): void {
  for (let at = from; at < to; at += MAX_BLOCK_FRAMES) {
    const frames = Math.min(MAX_BLOCK_FRAMES, to - at);
    measure.process(
      channels.map((samples) => samples.subarray(at, at + frames)),
      frames,
    );
  }
}
