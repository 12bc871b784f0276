import { DelayLine } from '../delay-line.js';
import { RealFft } from '../kernels/real-fft.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { frameSizeFor } from '../spectrum/window.js';
import type { Section } from './sections.js';

/** The transform is so many times as long as that of noise reduction: 8192 at 48 kHz, so that a turn may last ± 43 ms. */
const TIMES_FRAME = 4;
/** Transforms are made one after the other, so many frames apart, so that no turn of the audio clock carries two of them. */
const APART_FRAMES = 160;
/** Of the kernel so much is faded at each end. */
const FADED_SHARE = 0.25;

/**
 * The phase of a cascade of sections without its magnitude, H / |H|, as a filter of finite length (overlap and save). It looks
 * ahead as far as it looks back, so that a turn may go either way. Other sections are taken over at the next block, crossfaded.
 */
export class PhaseFilter implements Processor {
  readonly latencyFrames: number;
  readonly #block: number;
  readonly #fft: RealFft;
  readonly #tables: Trigonometry;
  readonly #now: Kernel;
  readonly #next: Kernel;
  readonly #lines: readonly DelayLine[];
  /** By channel: the block that is read, and the one that is made meanwhile. */
  #read: readonly Float32Array[];
  #made: readonly Float32Array[];
  readonly #fresh: Float32Array;
  readonly #re: Float32Array;
  readonly #im: Float32Array;
  #sections: readonly Section[];
  /** Other sections wait; and they are gone over to in the block that is made. */
  #moved = false;
  #moves = false;
  #fill = 0;

  constructor({ channels, sampleRateHz, kernels }: Omit<ProcessorContext, 'noiseProfile'>, sections: readonly Section[]) {
    const size = TIMES_FRAME * frameSizeFor(sampleRateHz);
    this.#block = size / 2;
    this.#fft = new RealFft(kernels, size);
    this.#tables = new Trigonometry(size);
    this.#sections = sections;
    this.#now = new Kernel(size);
    this.#next = new Kernel(size);
    this.#now.design(sections, this.#fft, this.#tables);
    // Half of the kernel, the block that is gathered, and the one in which the transforms are made.
    this.latencyFrames = size / 4 + this.#block + this.#workFrames(channels);
    this.#lines = Array.from({ length: channels }, () => new DelayLine(size + this.#workFrames(channels)));
    this.#read = this.#lines.map(() => new Float32Array(this.#block));
    this.#made = this.#lines.map(() => new Float32Array(this.#block));
    this.#fresh = new Float32Array(this.#block);
    this.#re = new Float32Array(size / 2 + 1);
    this.#im = new Float32Array(size / 2 + 1);
  }

  #workFrames(channels: number): number {
    return APART_FRAMES * (channels + 1);
  }

  /** Turns as these do from the next block on. Always as many of them. */
  set(sections: readonly Section[]): void {
    this.#sections = sections;
    this.#moved = true;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const block = this.#block;
    const work = this.#workFrames(this.#lines.length);
    for (let n = 0; n < frames;) {
      // Up to the next thing to do, counted from the start of the stream, whatever the block length.
      const step = this.#fill < work ? APART_FRAMES - (this.#fill % APART_FRAMES) : block - this.#fill;
      const count = Math.min(frames - n, step, 4096);
      for (let c = 0; c < this.#lines.length; c++) {
        const line = this.#lines[c]!;
        line.push(input[c]!, n, count);
        line.shift(count);
        const read = this.#read[c]!;
        const at = (this.#fill - work + block) % block;
        const to = output[c]!;
        for (let i = 0; i < count; i++) to[n + i] = read[at + i]!;
      }
      n += count;
      this.#fill += count;
      if (this.#fill <= work && this.#fill % APART_FRAMES === 0) this.#work(this.#fill / APART_FRAMES - 1);
      if (this.#fill === block) this.#fill = 0;
    }
  }

  /** The first thing in a block is another kernel, if one is wanted; then channel by channel. */
  #work(step: number): void {
    if (step === 0) {
      this.#moves = this.#moved;
      this.#moved = false;
      if (this.#moves) this.#next.design(this.#sections, this.#fft, this.#tables);
      return;
    }
    this.#make(step - 1, (step + 1) * APART_FRAMES);
    if (step < this.#lines.length) return;
    [this.#read, this.#made] = [this.#made, this.#read];
    if (this.#moves) this.#now.take(this.#next);
  }

  /** @param since frames that came in after the block that is treated. */
  #make(channel: number, since: number): void {
    const { frame, forward, inverse, size } = this.#fft;
    const block = this.#block;
    const { samples, delayFrames } = this.#lines[channel]!;
    const made = this.#made[channel]!;
    const from = delayFrames - since - size;
    frame.set(samples.subarray(from, from + size));
    forward();
    if (this.#moves) {
      this.#re.set(this.#fft.re);
      this.#im.set(this.#fft.im);
      this.#next.apply(this.#fft);
      inverse();
      this.#fresh.set(frame.subarray(block));
      this.#fft.re.set(this.#re);
      this.#fft.im.set(this.#im);
    }
    this.#now.apply(this.#fft);
    inverse();
    made.set(frame.subarray(block));
    if (this.#moves) for (let n = 0; n < block; n++) made[n]! += (this.#fresh[n]! - made[n]!) * ((n + 0.5) / block);
  }

  reset(): void {
    this.#fill = 0;
    this.#moved = this.#moves = false;
    this.#now.design(this.#sections, this.#fft, this.#tables);
    for (const line of this.#lines) line.reset();
    for (const made of [...this.#made, ...this.#read]) made.fill(0);
  }
}

/** cos and sin of every bin and of twice that. */
class Trigonometry {
  readonly cos: Float64Array;
  readonly sin: Float64Array;

  constructor(size: number) {
    this.cos = Float64Array.from({ length: size / 2 + 1 }, (_, k) => Math.cos((2 * Math.PI * k) / size));
    this.sin = Float64Array.from({ length: size / 2 + 1 }, (_, k) => Math.sin((2 * Math.PI * k) / size));
  }
}

/** The spectrum of a phase-only kernel of half the transform's length. */
class Kernel {
  readonly #re: Float32Array;
  readonly #im: Float32Array;
  readonly #window: Float32Array;
  readonly #response: Float32Array;

  constructor(size: number) {
    this.#re = new Float32Array(size / 2 + 1);
    this.#im = new Float32Array(size / 2 + 1);
    this.#response = new Float32Array(size);
    const taps = size / 2;
    const faded = FADED_SHARE * taps;
    this.#window = Float32Array.from(
      { length: taps },
      (_, n) => 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, (Math.min(n, taps - n) + 0.5) / faded)),
    );
  }

  take(other: Kernel): void {
    this.#re.set(other.#re);
    this.#im.set(other.#im);
  }

  design(sections: readonly Section[], { frame, re, im, forward, inverse, size }: RealFft, { cos, sin }: Trigonometry): void {
    for (let k = 0; k <= size / 2; k++) {
      const [c1, s1] = [cos[k]!, sin[k]!];
      const [c2, s2] = [2 * c1 * c1 - 1, 2 * c1 * s1];
      let x = 1;
      let y = 0;
      for (let i = 0; i < sections.length; i++) {
        const [b0, b1, b2, a1, a2] = sections[i]!;
        const bx = b0 + b1 * c1 + b2 * c2;
        const by = -b1 * s1 - b2 * s2;
        const ax = 1 + a1 * c1 + a2 * c2;
        const ay = -a1 * s1 - a2 * s2;
        // B times the conjugate of A has the phase of B / A.
        const hx = bx * ax + by * ay;
        const hy = by * ax - bx * ay;
        const size = Math.sqrt(hx * hx + hy * hy) + 1e-30;
        const turned = (x * hx - y * hy) / size;
        y = (x * hy + y * hx) / size;
        x = turned;
      }
      re[k] = x;
      im[k] = k === 0 || k === size / 2 ? 0 : y;
    }
    inverse();
    const taps = size / 2;
    this.#response.set(frame);
    frame.fill(0);
    for (let n = 0; n < taps; n++) frame[n] = this.#response[(n - taps / 2 + size) % size]! * this.#window[n]!;
    forward();
    this.#re.set(re);
    this.#im.set(im);
  }

  apply({ re, im }: RealFft): void {
    for (let k = 0; k < re.length; k++) {
      const x = re[k]! * this.#re[k]! - im[k]! * this.#im[k]!;
      im[k] = re[k]! * this.#im[k]! + im[k]! * this.#re[k]!;
      re[k] = x;
    }
  }
}
