import type { Memory } from '../memory.js';
import { createSuppressor, OPINION_FRAMES, OPINION_LAG_FRAMES, OPINION_RATE_HZ, type Suppressor } from './second-opinion.js';
import { Resampler } from './resampler.js';

/**
 * The speech in a channel as the second network takes it to be, at the rate of the sound: late by `lagFrames`, and by less than
 * `blockFrames` more until a block of it is full.
 */
export class OpinionStream {
  readonly lagFrames: number;
  readonly blockFrames: number;
  readonly #suppressor: Suppressor;
  readonly #into: Resampler;
  readonly #back: Resampler;
  readonly #frame = new Float32Array(OPINION_FRAMES);
  #fill = 0;

  constructor(sampleRateHz: number) {
    this.#suppressor = createSuppressor();
    // By whole factors: at 44.1 kHz a voice is taken for one that is a semitone and a half higher.
    const up = Math.max(1, Math.round(OPINION_RATE_HZ / sampleRateHz));
    const down = Math.max(1, Math.round(sampleRateHz / OPINION_RATE_HZ));
    this.#into = new Resampler(up, down);
    this.#back = new Resampler(down, up);
    this.blockFrames = Math.ceil((OPINION_FRAMES * down) / up);
    this.lagFrames = Math.round(((OPINION_LAG_FRAMES + this.#into.delayFrames) * down) / up) + this.#back.delayFrames;
  }

  /** Hears samples[from … to); what has become known goes to `take`. */
  push(samples: Float32Array, from: number, to: number, take: (speech: number) => void): void {
    for (let n = from; n < to; n++)
      this.#into.push(samples[n]!, (x) => {
        this.#frame[this.#fill++] = x;
        if (this.#fill < OPINION_FRAMES) return;
        this.#fill = 0;
        this.#suppressor.process(this.#frame);
        for (let i = 0; i < OPINION_FRAMES; i++) this.#back.push(this.#frame[i]!, take);
      });
  }

  /** Blocks are counted from the beginning of the stream. */
  goOnAt(frame: number): void {
    this.#into.goOnAt(frame);
    this.#fill = this.#into.madeAt(frame) % OPINION_FRAMES;
    this.#back.goOnAt(this.#into.madeAt(frame) - this.#fill);
  }

  /** How many samples it has given when so many were heard. */
  saidAt(frame: number): number {
    const made = this.#into.madeAt(frame);
    return this.#back.madeAt(made - (made % OPINION_FRAMES));
  }

  remember(memory: Memory): void {
    this.#suppressor.remember(memory);
  }

  reset(): void {
    this.#suppressor.reset();
    this.#into.reset();
    this.#back.reset();
    this.#frame.fill(0);
    this.#fill = 0;
  }
}
