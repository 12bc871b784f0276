import { Cascade } from '../filters/cascade.js';
import { butterworthHighPass, lowPassSection } from '../filters/sections.js';
import type { KernelModule } from '../kernels/instance.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import { Features } from '../survey/features.js';
import { Growing } from '../survey/growing.js';
import { findTalk, type HeardChannel } from '../survey/talk.js';

const STEP_SECONDS = 0.01;
/** Where a voice is told from what is under it. */
const VOICE_HZ = [150, 3500] as const;
const FULL_SCALE = 32767;

/** What is kept of one microphone while it streams by: who talks, levels every 10 ms, and a narrow copy for times of arrival. */
export class BleedListener {
  readonly #features: Features;
  readonly #band: Cascade;
  readonly #levels = new Growing();
  readonly #block = new Float32Array(MAX_BLOCK_FRAMES);
  readonly stepFrames: number;
  #slow = new Int16Array(4096);
  #slowCount = 0;
  #sum = 0;
  #fill = 0;

  constructor(
    kernels: KernelModule,
    readonly sampleRateHz: number,
  ) {
    this.#features = new Features(kernels, sampleRateHz, (x) => this.#push(x));
    this.#band = new Cascade(kernels, [
      ...butterworthHighPass(VOICE_HZ[0], 2, sampleRateHz),
      lowPassSection(Math.min(VOICE_HZ[1], 0.4 * sampleRateHz), Math.SQRT1_2, sampleRateHz),
    ]);
    this.stepFrames = Math.round(STEP_SECONDS * sampleRateHz);
  }

  process(mono: Float32Array, frames: number): void {
    this.#features.process(mono, frames);
    const block = this.#block;
    block.set(mono.subarray(0, frames));
    this.#band.process(block, 0, frames);
    for (let n = 0; n < frames; n++) {
      const x = block[n]!;
      this.#sum += x * x;
      if (++this.#fill < this.stepFrames) continue;
      this.#levels.push(10 * Math.log10(this.#sum / this.stepFrames + 1e-12));
      this.#sum = this.#fill = 0;
    }
  }

  /** The narrow copy is kept in 16 bits: an hour takes 29 MB. */
  #push(x: number): void {
    if (this.#slowCount === this.#slow.length) {
      const more = new Int16Array(2 * this.#slow.length);
      more.set(this.#slow);
      this.#slow = more;
    }
    this.#slow[this.#slowCount++] = Math.max(-FULL_SCALE, Math.min(FULL_SCALE, Math.round(x * FULL_SCALE)));
  }

  /** Level of the voice's band in steps of 10 ms, dBFS. */
  get levels(): Float32Array {
    return this.#levels.values;
  }

  /** Below 1.6 kHz, at about 4 kHz. */
  get slow(): Int16Array {
    return this.#slow.subarray(0, this.#slowCount);
  }

  get slowRateHz(): number {
    return this.#features.slowRateHz;
  }

  heard(): HeardChannel {
    return { features: this.#features, talk: findTalk(this.#features) };
  }
}
