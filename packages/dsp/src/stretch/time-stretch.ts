import { createBlock, type PlanarBlock } from '../processor.js';

/** Range of speeds: half to twice. */
export const SPEED = { min: 0.5, max: 2 } as const;

const WINDOW_SECONDS = 0.03;
/** A segment is taken from so much earlier or later, where it goes on best. */
const SEARCH_SECONDS = 0.008;
/** Similarity is looked for on every so-manieth sample and lag first, then around the best one on all lags. */
const COARSE = 6;

/** Fills a block with the next frames of the sound, one after the other. */
export type Pull = (into: PlanarBlock, frames: number) => void;

/**
 * Plays sound faster or slower and leaves its pitch: waveform similarity overlap-add (Verhelst & Roelands 1993, WSOLA). Segments of 30 ms
 * overlap by half under a Hann window; each is taken from near its place, where it is most like what would have followed the one before
 * (normalised cross-correlation). All channels move together. At speed 1 what is pulled comes out as it is, once what was stretched has run
 * out. Nothing is allocated while it runs.
 */
export class TimeStretch {
  #speed = 1;
  readonly #window: Float32Array;
  readonly #hop: number;
  readonly #search: number;
  /** What was pulled and is still needed; frame 0 of it is `#base` of the stream. */
  readonly #held: Float32Array[];
  readonly #sum: Float32Array;
  #filled = 0;
  /** Where the next segment belongs, in held frames; and where the last one was taken from. */
  #place = 0;
  #last = -1;
  /** The second half of the last segment, windowed; and what is ready to go out. */
  readonly #tail: Float32Array[];
  readonly #ready: Float32Array[];
  #readyFrom = 0;
  #readyTo = 0;
  readonly #quantum: Float32Array[];
  readonly #pullFrames: number;

  constructor(
    sampleRateHz: number,
    private readonly channels: number,
    pullFrames = 128,
  ) {
    const size = 2 * Math.round((WINDOW_SECONDS * sampleRateHz) / 2);
    this.#hop = size / 2;
    this.#search = Math.round(SEARCH_SECONDS * sampleRateHz);
    this.#window = Float32Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / size));
    const room = 4 * size + 4 * this.#search + 2 * pullFrames;
    this.#held = createBlock(channels, room);
    this.#sum = new Float32Array(room);
    this.#tail = createBlock(channels, this.#hop);
    this.#ready = createBlock(channels, this.#hop);
    this.#quantum = createBlock(channels, pullFrames);
    this.#pullFrames = pullFrames;
  }

  get speed(): number {
    return this.#speed;
  }

  setSpeed(speed: number): void {
    this.#speed = Math.max(SPEED.min, Math.min(SPEED.max, speed));
  }

  /** By how many frames of the stream what was pulled is ahead of what came out. */
  get aheadFrames(): number {
    return this.#plain ? 0 : Math.max(0, Math.round(this.#filled - this.#place + (this.#readyTo - this.#readyFrom) * this.#speed));
  }

  /** Starts anew: what was held is forgotten. */
  reset(): void {
    this.#filled = this.#place = this.#readyFrom = this.#readyTo = 0;
    this.#last = -1;
    for (const samples of this.#tail) samples.fill(0);
  }

  /** Nothing is stretched, and nothing stretched is left. */
  get #plain(): boolean {
    return this.#speed === 1 && this.#last < 0 && this.#readyFrom === this.#readyTo;
  }

  /** The next `frames` of what is heard. */
  process(output: PlanarBlock, frames: number, pull: Pull): void {
    if (this.#plain) return pull(output, frames);
    for (let done = 0; done < frames;) {
      if (this.#readyFrom === this.#readyTo) this.#segment(pull);
      const count = Math.min(frames - done, this.#readyTo - this.#readyFrom);
      for (let c = 0; c < this.channels; c++) for (let n = 0; n < count; n++) output[c]![done + n] = this.#ready[c]![this.#readyFrom + n]!;
      this.#readyFrom += count;
      done += count;
    }
    this.#fillAhead(Math.ceil(frames * this.#speed), pull);
  }

  /** Some of what the next segment needs: what is pulled must not all be computed at once. */
  #fillAhead(frames: number, pull: Pull): void {
    const next = this.#needed;
    for (let pulled = 0; pulled < frames && this.#filled < next; pulled += this.#pullFrames) this.#fill(this.#filled + 1, pull);
  }

  /** How much must be held for the next segment. */
  get #needed(): number {
    return Math.ceil(this.#place) + this.#window.length + this.#search + this.#hop;
  }

  /** One more hop of output. */
  #segment(pull: Pull): void {
    this.#drop();
    this.#fill(this.#needed, pull);
    const at = this.#last < 0 ? Math.round(this.#place) : this.#speed === 1 ? this.#last + this.#hop : this.#best();
    for (let c = 0; c < this.channels; c++) {
      const from = this.#held[c]!;
      for (let n = 0; n < this.#hop; n++) {
        // The very first segment has nothing before it: it does not fade in.
        const rise = this.#last < 0 ? 1 : this.#window[n]!;
        this.#ready[c]![n] = this.#tail[c]![n]! + rise * from[at + n]!;
        this.#tail[c]![n] = this.#window[this.#hop + n]! * from[at + this.#hop + n]!;
      }
    }
    this.#last = at;
    // At its own speed it goes on from where it is: it is the sound itself, late by what is held.
    this.#place = this.#speed === 1 ? at + this.#hop : this.#place + this.#hop * this.#speed;
    this.#readyFrom = 0;
    this.#readyTo = this.#hop;
  }

  #fill(needed: number, pull: Pull): void {
    while (this.#filled < needed) {
      pull(this.#quantum, this.#pullFrames);
      for (let n = 0; n < this.#pullFrames; n++) {
        let sum = 0;
        for (let c = 0; c < this.channels; c++) {
          const x = this.#quantum[c]![n]!;
          this.#held[c]![this.#filled + n] = x;
          sum += x;
        }
        this.#sum[this.#filled + n] = sum;
      }
      this.#filled += this.#pullFrames;
    }
  }

  /** What lies before anything that is still needed makes room. */
  #drop(): void {
    const needed = Math.floor(this.#last < 0 ? this.#place : Math.min(this.#last, this.#place - this.#search));
    if (needed < this.#window.length) return;
    for (const samples of this.#held) samples.copyWithin(0, needed, this.#filled);
    this.#sum.copyWithin(0, needed, this.#filled);
    this.#filled -= needed;
    this.#place -= needed;
    if (this.#last >= 0) this.#last -= needed;
  }

  /** Where near its place the sound goes on most like what followed the last segment. */
  #best(): number {
    const goal = this.#last + this.#hop;
    const place = Math.round(this.#place);
    const [first, last] = [Math.max(0, place - this.#search), place + this.#search];
    let best = place;
    let most = -Infinity;
    for (let at = first; at <= last; at += COARSE) {
      const alike = this.#alike(goal, at);
      if (alike > most) [most, best] = [alike, at];
    }
    const [from, to] = [Math.max(first, best - COARSE + 1), Math.min(last, best + COARSE - 1)];
    for (let at = from; at <= to; at++) {
      const alike = this.#alike(goal, at);
      if (alike > most) [most, best] = [alike, at];
    }
    return best;
  }

  /** Normalised cross-correlation of the sound at two places. */
  #alike(a: number, b: number): number {
    const x = this.#sum;
    let product = 0;
    let power = 1e-12;
    for (let n = 0; n < this.#window.length; n += COARSE) {
      product += x[a + n]! * x[b + n]!;
      power += x[b + n]! * x[b + n]!;
    }
    return product / Math.sqrt(power);
  }
}
