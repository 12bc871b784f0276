import { copyFrames } from '../copy-frames.js';
import { KernelInstance, type KernelModule } from '../kernels/instance.js';
import type { Memory } from '../memory.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import type { Section } from './sections.js';

/** Passes everything: fills up an odd number of sections. */
const PASS: Section = [1, 0, 0, 0, 0];

/**
 * Second-order sections in series for one channel (kernels/cascade.ts): direct form II transposed in doubles, so
 * that rounding stays small with poles near 1 (a high-pass at 60 Hz). All zeros is rest.
 */
export class Cascade {
  readonly #coefficients: Float64Array;
  readonly #state: Float64Array;
  readonly #signal: Float32Array;
  readonly #process: (frames: number) => void;
  readonly #energy: (frames: number) => number;
  readonly #givenEnergy: { readonly value: number };
  readonly #givenPeak: { readonly value: number };
  /** Of what the last `sumOfSquares` was given: its own sum of squares, and its largest magnitude. */
  energy = 0;
  peak = 0;

  constructor(module: KernelModule, sections: readonly Section[]) {
    const pairs = Math.max(1, Math.ceil(sections.length / 2));
    const kernel = new KernelInstance(module, 'cascadeSetUp', pairs);
    this.#coefficients = kernel.doubles('coefficients', pairs * 10);
    this.#state = kernel.doubles('sectionState', pairs * 4);
    this.#signal = kernel.floats('signal', MAX_BLOCK_FRAMES);
    this.#process = kernel.call('cascadeProcess');
    this.#energy = kernel.call('cascadeEnergy');
    this.#givenEnergy = kernel.number('givenEnergy');
    this.#givenPeak = kernel.number('givenPeak');
    for (let i = 0; i < pairs * 2; i++) this.#set(i, PASS);
    this.set(sections);
  }

  /** Replaces the coefficients and keeps the state. The number of sections must be the one at creation. */
  set(sections: readonly Section[]): void {
    for (let i = 0; i < sections.length; i++) this.#set(i, sections[i]!);
  }

  #set(index: number, section: Section): void {
    const at = (index >> 1) * 10 + (index & 1);
    for (let j = 0; j < 5; j++) this.#coefficients[at + 2 * j] = section[j]!;
  }

  reset(): void {
    this.#state.fill(0);
  }

  remember(memory: Memory): void {
    for (let i = 0; i < this.#state.length; i++) this.#state[i] = memory.number(this.#state[i]!);
  }

  /** Filters samples[from … to) in place. */
  process(samples: Float32Array, from: number, to: number): void {
    for (let at = from; at < to; at += MAX_BLOCK_FRAMES) {
      const frames = Math.min(MAX_BLOCK_FRAMES, to - at);
      copyFrames(samples, at, this.#signal, 0, frames);
      this.#process(frames);
      copyFrames(this.#signal, 0, samples, at, frames);
    }
  }

  /** Filters samples[from … to) and returns the sum of squares of the result; the samples stay as they are. */
  sumOfSquares(samples: Float32Array, from: number, to: number): number {
    let sum = 0;
    this.energy = 0;
    this.peak = 0;
    for (let at = from; at < to; at += MAX_BLOCK_FRAMES) {
      const frames = Math.min(MAX_BLOCK_FRAMES, to - at);
      copyFrames(samples, at, this.#signal, 0, frames);
      sum += this.#energy(frames);
      this.energy += this.#givenEnergy.value;
      this.peak = Math.max(this.peak, this.#givenPeak.value);
    }
    return sum;
  }
}
