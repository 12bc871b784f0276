import { FlatTopFinder, FLAT_TOLERANCE, LEVEL_REACH_SECONDS, type FlatTop } from '../treatments/clipping/flat-tops.js';
import { gainToDb } from '../units.js';
import { Growing } from './growing.js';
import type { SpanSeconds } from '../span-seconds.js';

/** Zeros for so long inside of sound are a dropout; longer ones are a pause that somebody silenced. */
const LEAST_DROPOUT_MS = 1;
const MOST_DROPOUT_MS = 400;
/** Sound counts as cut off when it was this loud in the 4 ms before. */
const CUT_OFF_LEVEL = 0.004;
const EDGE_MS = 4;
/** The peak of every 10 ms, for the shape of the loudest ones. */
const PEAK_MS = 10;
/** Soft clipping: so many of the loud moments' peaks lie within 1 dB of the highest. Natural speech: up to 1 %. */
const SQUEEZED_SHARE = 0.14;
const SQUEEZED_DB = 1;
const LOUD_DB = 12;
const MOST_TOPS = 200_000;

export interface Clipping {
  readonly count: number;
  readonly spans: readonly SpanSeconds[];
  readonly levelDbfs: number;
  readonly shape: 'hard' | 'soft';
}

/** Offset, flat tops, dropouts and peaks of one channel. */
export class Flaws {
  readonly dropouts: SpanSeconds[] = [];
  readonly #tops: FlatTop[] = [];
  readonly #finder = new FlatTopFinder((top) => this.#tops.length < MOST_TOPS && this.#tops.push(top));
  readonly #up = new Growing();
  readonly #down = new Growing();
  readonly #peakFrames: number;
  #fill = 0;
  #peakUp = 0;
  #peakDown = 0;
  #sum = 0;
  #squares = 0;
  #frames = 0;
  #zeros = 0;
  /** Largest sample in the last few ms, falling off, and what it was when the zeros began. */
  #recent = 0;
  #recentBefore = 0;
  readonly #recentShare: number;

  constructor(private readonly sampleRateHz: number) {
    this.#peakFrames = Math.round((PEAK_MS / 1000) * sampleRateHz);
    this.#recentShare = Math.exp(-1000 / (EDGE_MS * sampleRateHz));
  }

  process(x: Float32Array, frames: number): void {
    this.#finder.take(x, frames, this.#frames);
    let sum = 0;
    let squares = 0;
    let fill = this.#fill;
    let up = this.#peakUp;
    let down = this.#peakDown;
    let zeros = this.#zeros;
    let recent = this.#recent;
    const peakFrames = this.#peakFrames;
    const share = this.#recentShare;
    for (let n = 0; n < frames; n++) {
      const now = x[n]!;
      sum += now;
      squares += now * now;
      if (now === 0) {
        if (zeros++ === 0) this.#recentBefore = recent;
      } else {
        if (zeros > 0) this.#endZeros(zeros, this.#frames + n);
        zeros = 0;
      }
      recent *= share;
      if (now > 0) {
        if (now > recent) recent = now;
        if (now > up) up = now;
      } else {
        if (-now > recent) recent = -now;
        if (-now > down) down = -now;
      }
      if (++fill === peakFrames) {
        this.#up.push(up);
        this.#down.push(down);
        fill = up = down = 0;
      }
    }
    this.#sum += sum;
    this.#squares += squares;
    this.#frames += frames;
    this.#fill = fill;
    this.#peakUp = up;
    this.#peakDown = down;
    this.#zeros = zeros;
    this.#recent = recent;
  }

  #endZeros(zeros: number, frame: number): void {
    const ms = (zeros / this.sampleRateHz) * 1000;
    // Sound before it must be loud at the very edge: a fade into silence is no dropout.
    if (ms < LEAST_DROPOUT_MS || ms > MOST_DROPOUT_MS || this.#recentBefore < CUT_OFF_LEVEL) return;
    this.dropouts.push({ startSeconds: (frame - zeros) / this.sampleRateHz, endSeconds: frame / this.sampleRateHz });
  }

  get dcOffset(): number {
    return this.#frames === 0 ? 0 : this.#sum / this.#frames;
  }

  get rmsDbfs(): number {
    return 10 * Math.log10(this.#squares / Math.max(1, this.#frames) + 1e-20);
  }

  /** Clipped peaks: flat tops that nothing around them is louder than; or peaks that all end at one level without being flat. */
  clipping(): Clipping | null {
    const reach = Math.round((LEVEL_REACH_SECONDS * 1000) / PEAK_MS);
    const clipped = this.#tops.filter(({ sign, level, startFrame }) => {
      const peaks = sign === 1 ? this.#up.values : this.#down.values;
      const at = Math.floor(startFrame / this.#peakFrames);
      for (let i = Math.max(0, at - reach); i < Math.min(peaks.length, at + reach); i++)
        if (peaks[i]! > level + 2 * FLAT_TOLERANCE) return false;
      return true;
    });
    if (clipped.length >= 3) {
      const levelDbfs = gainToDb(Math.max(...clipped.slice(0, 10000).map(({ level }) => level)));
      return {
        count: clipped.length,
        levelDbfs,
        shape: 'hard',
        spans: this.#spansOf(clipped.map(({ startFrame, endFrame }) => [startFrame, endFrame])),
      };
    }
    return this.#softClipping();
  }

  #softClipping(): Clipping | null {
    for (const values of [this.#up.values, this.#down.values]) {
      let top = 0;
      for (const peak of values) if (peak > top) top = peak;
      const loud = values.filter((peak) => peak > top * 10 ** (-LOUD_DB / 20));
      const squeezed = top * 10 ** (-SQUEEZED_DB / 20);
      const count = loud.filter((peak) => peak >= squeezed).length;
      if (top < 0.02 || loud.length < 100 || count < SQUEEZED_SHARE * loud.length) continue;
      const frames: [number, number][] = [];
      values.forEach((peak, i) => peak >= squeezed && frames.push([i * this.#peakFrames, (i + 1) * this.#peakFrames]));
      return { count, levelDbfs: gainToDb(squeezed), shape: 'soft', spans: this.#spansOf(frames) };
    }
    return null;
  }

  /** Spans that are less than a quarter of a second apart are one. */
  #spansOf(frames: readonly (readonly [number, number])[]): SpanSeconds[] {
    return joinSpans(
      frames.map(([from, to]) => ({ startSeconds: from / this.sampleRateHz, endSeconds: to / this.sampleRateHz })),
      0.25,
    );
  }
}

/** Joins spans (in order of their start) that are less than `gapSeconds` apart. */
export function joinSpans(spans: readonly SpanSeconds[], gapSeconds: number): SpanSeconds[] {
  const joined: SpanSeconds[] = [];
  for (const span of [...spans].sort((a, b) => a.startSeconds - b.startSeconds)) {
    const last = joined[joined.length - 1];
    if (last && span.startSeconds - last.endSeconds < gapSeconds)
      joined[joined.length - 1] = { startSeconds: last.startSeconds, endSeconds: Math.max(last.endSeconds, span.endSeconds) };
    else joined.push(span);
  }
  return joined;
}

/** How two channels go together: correlation, and the level of their difference against their sum. */
export class ChannelPair {
  #product = 0;
  #first = 0;
  #second = 0;
  #difference = 0;

  process(a: Float32Array, b: Float32Array, frames: number): void {
    let product = 0;
    let first = 0;
    let second = 0;
    let difference = 0;
    for (let n = 0; n < frames; n++) {
      const x = a[n]!;
      const y = b[n]!;
      product += x * y;
      first += x * x;
      second += y * y;
      difference += (x - y) * (x - y);
    }
    this.#product += product;
    this.#first += first;
    this.#second += second;
    this.#difference += difference;
  }

  get correlation(): number {
    return this.#first * this.#second === 0 ? 0 : this.#product / Math.sqrt(this.#first * this.#second);
  }

  /** Level of the difference against the mean of the two, dB. */
  get differenceDb(): number {
    return 10 * Math.log10((this.#difference + 1e-20) / ((this.#first + this.#second) / 2 + 1e-20));
  }
}
