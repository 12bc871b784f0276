import type { KernelModule } from '../kernels/instance.js';
import { LoudnessMeter, powerToLufs, stepFramesOf } from '../measures/loudness.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
import type { SpanSeconds } from '../span-seconds.js';
import { Features } from './features.js';
import type { ThirdOctave } from './findings.js';
import { Growing, quantile, runs } from './growing.js';
import { thirdOctaves } from './spectrum-facts.js';
import { findTalk, withoutBleed, type HeardTalk } from './talk.js';

/** A stretch of talk, and how loud it is (BS.1770-5, without gates). */
export interface Spoken extends SpanSeconds {
  readonly lufs: number;
}

/** Nearer to each other, words are one stretch. */
const RUN_ON_SECONDS = 0.25;

/** Words reach so far down from where they are loud. */
const WORDS_DB = 20;
/** The noise reaches so far up from where it is half of the time; what is softer than that is digital silence. */
const QUIET_DB = 4;
const SILENT_DB = -105;

/** What is kept of a track while it streams by, placed where it stands in the mix: who talks, and how loud it is. */
export class TrackListener {
  readonly #features: Features;
  readonly #meter: LoudnessMeter;
  readonly #powers = new Growing();
  readonly #mono = new Float32Array(MAX_BLOCK_FRAMES);

  constructor(
    kernels: KernelModule,
    private readonly sampleRateHz: number,
    channels: number,
  ) {
    this.#features = new Features(kernels, sampleRateHz, () => undefined);
    this.#meter = new LoudnessMeter(kernels, sampleRateHz, channels, undefined, (power) => this.#powers.push(power));
  }

  /** @param block up to MAX_BLOCK_FRAMES of every channel of the mix */
  process(block: PlanarBlock, frames: number): void {
    this.#meter.process(block, frames);
    const mono = this.#mono;
    for (let n = 0; n < frames; n++) {
      let sum = 0;
      for (const samples of block) sum += samples[n]!;
      mono[n] = sum / block.length;
    }
    this.#features.process(mono, frames);
  }

  /** What was heard, without the filters that heard it: they hold memory that a page has little of. */
  finish(): Listened {
    const features = this.#features;
    const loud = quantile(features.level.values, 0.95);
    const mean = features.meanSpectrum(loud - WORDS_DB, Infinity);
    const talk = findTalk(features);
    const quiet = features.meanSpectrum(SILENT_DB, talk.quietDb + QUIET_DB);
    return {
      heard: { features: { body: features.body, frameSeconds: features.frameSeconds }, talk },
      powers: this.#powers.values,
      stepSeconds: stepFramesOf(this.sampleRateHz) / this.sampleRateHz,
      tone: mean && thirdOctaves(mean.power, features.binHz),
      noise: quiet && thirdOctaves(quiet.power, features.binHz),
    };
  }
}

/** What is known of a track that was listened to. */
export interface Listened {
  readonly heard: HeardTalk;
  /** K-weighted mean squares of steps, summed over the channels. */
  readonly powers: Float32Array;
  readonly stepSeconds: number;
  /** Long-term spectrum of what is loud (its words), in third octaves (IEC 61260-1); null where there is nothing. */
  readonly tone: readonly ThirdOctave[] | null;
  /** The same of what is there when nobody talks; digital silence is none. */
  readonly noise: readonly ThirdOctave[] | null;
}

/** Where somebody speaks on each track, without what is only heard of the others. Times are those of the stream. */
export function whoSpeaks(tracks: readonly Listened[]): Spoken[][] {
  const heard = tracks.map((track) => track.heard);
  const talks = tracks.length > 1 ? withoutBleed(heard) : heard.map(({ talk }) => talk);
  return talks.map(({ isTalk }, i) => {
    const { frameSeconds } = heard[i]!.features;
    const { powers, stepSeconds } = tracks[i]!;
    const bridge = Math.round(RUN_ON_SECONDS / frameSeconds);
    const flags = Uint8Array.from(isTalk);
    for (const [from, to] of runs(Array.from(flags, (flag) => flag === 0)))
      if (from > 0 && to < flags.length && to - from <= bridge) flags.fill(1, from, to);
    return runs(flags).map(([from, to]): Spoken => {
      // A frame reaches half a hop to either side of the end of its hop.
      const [startSeconds, endSeconds] = [Math.max(0, (from - 0.5) * frameSeconds), (to + 0.5) * frameSeconds];
      return {
        startSeconds: Math.round(startSeconds * 1000) / 1000,
        endSeconds: Math.round(endSeconds * 1000) / 1000,
        lufs: Math.round(10 * Math.max(-100, powerToLufs(meanWithin(powers, stepSeconds, [{ startSeconds, endSeconds }])))) / 10,
      };
    });
  });
}

/** Mean of steps that lie in spans and are no less than `least`; 0 of none. */
export function meanWithin(powers: Float32Array, stepSeconds: number, spans: readonly SpanSeconds[], least = 0): number {
  let sum = 0;
  let count = 0;
  for (const { startSeconds, endSeconds } of spans)
    for (
      let i = Math.max(0, Math.round(startSeconds / stepSeconds));
      i < Math.min(powers.length, Math.round(endSeconds / stepSeconds));
      i++
    ) {
      if (powers[i]! < least) continue;
      sum += powers[i]!;
      count++;
    }
  return count === 0 ? 0 : sum / count;
}
