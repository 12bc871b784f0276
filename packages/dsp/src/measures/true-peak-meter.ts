import { TruePeakKernel } from '../kernels/peak-kernels.js';
import type { KernelModule } from '../kernels/instance.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
import { gainToDb } from '../units.js';

/** Largest true peak of all channels so far (ITU-R BS.1770-5 annex 2, 4 × oversampling). */
export class TruePeakMeter {
  readonly #kernels: TruePeakKernel[];
  readonly #silence = new Float32Array(TruePeakKernel.latencyFrames);
  #peak = 0;

  constructor(module: KernelModule, channels: number) {
    this.#kernels = Array.from({ length: channels }, () => new TruePeakKernel(module));
  }

  process(block: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#kernels.length; c++)
      for (let from = 0; from < frames; from += MAX_BLOCK_FRAMES)
        this.#take(this.#kernels[c]!, block[c]!, from, Math.min(MAX_BLOCK_FRAMES, frames - from));
  }

  /** Counts the last frames that are still inside. Call once, at the end of the stream. */
  finish(): void {
    for (const kernel of this.#kernels) this.#take(kernel, this.#silence, 0, this.#silence.length);
  }

  #take(kernel: TruePeakKernel, samples: Float32Array, from: number, frames: number): void {
    kernel.process(samples, from, frames, this.#peak);
    const envelope = kernel.envelope;
    let peak = this.#peak;
    for (let n = 0; n < frames; n++) if (envelope[n]! > peak) peak = envelope[n]!;
    this.#peak = peak;
  }

  /** What there was since the last call, dBTP; it counts anew from here. */
  takePeak(): number {
    const peak = this.truePeakDbtp;
    this.#peak = 0;
    return peak;
  }

  /** dBTP; -Infinity for silence. */
  get truePeakDbtp(): number {
    return gainToDb(this.#peak);
  }
}
