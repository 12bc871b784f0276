import { copyFrames } from '../copy-frames.js';
import { ArKernel, arOrder } from '../kernels/ar-kernel.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { frameSizeFor } from '../spectrum/window.js';

/** Hops held of each channel: the one that goes out, those around the one that is mended, the one that comes in. */
const HOPS = 8;
/** The hop that may be mended now: two before it are kept for context, and three after it are known. */
export const MENDED_HOP = 3;
const OUT_HOP = 2;

/** One channel as it is worked on: HOPS hops, of which hop `MENDED_HOP` is due next. */
export interface Strip {
  readonly channel: number;
  readonly ar: ArKernel;
  readonly x: Float64Array;
}

/**
 * A treatment that mends a stretch with its surroundings in view. Works hop by hop on a grid counted from the first
 * frame of the stream; hop `MENDED_HOP` may be changed, and what is changed in it counts for what comes after.
 */
export abstract class RepairProcessor implements Processor {
  readonly latencyFrames: number;
  protected readonly hop: number;
  protected readonly strips: readonly Strip[];
  protected readonly sampleRateHz: number;
  /** Rings of the frames that are known and not yet in the strip. */
  readonly #delay: Float32Array[];
  readonly #come: Float32Array;
  readonly #startFrame: number;
  #delayAt = 0;
  #fill = 0;
  #turns = 0;

  /** @param aheadSeconds how long frames are known before they come into the strip, rounded to hops. */
  constructor({ channels, sampleRateHz, startFrame, kernels }: ProcessorContext, aheadSeconds = 0) {
    this.sampleRateHz = sampleRateHz;
    this.hop = frameSizeFor(sampleRateHz) / 2;
    this.#startFrame = startFrame ?? 0;
    this.strips = Array.from({ length: channels }, (_, channel) => {
      const ar = new ArKernel(kernels, arOrder(sampleRateHz), HOPS * this.hop, 2 * this.hop, 2 * this.hop);
      return { channel, ar, x: ar.strip };
    });
    this.#come = new Float32Array(this.hop);
    const delay = Math.round((aheadSeconds * sampleRateHz) / this.hop) * this.hop;
    this.#delay = this.strips.map(() => new Float32Array(delay));
    this.latencyFrames = (HOPS - 1 - OUT_HOP) * this.hop + delay;
  }

  /** Sees what comes in, before it is delayed: x[0 … frames), of which the first is `frame` of the recording. */
  protected arrived(_channel: number, _x: Float32Array, _frames: number, _frame: number): void {}

  /** Mends hop MENDED_HOP of a strip. `frame` is the first frame of that hop in the recording. */
  protected abstract mend(strip: Strip, frame: number): void;

  /** Forgets all that was heard. */
  protected abstract forget(): void;

  /** Gain on what goes out. */
  protected outputGain = 1;

  reset(): void {
    this.#fill = 0;
    this.#delayAt = 0;
    this.#turns = 0;
    for (const { x } of this.strips) x.fill(0);
    for (const delay of this.#delay) delay.fill(0);
    this.forget();
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const { hop, outputGain } = this;
    for (let n = 0; n < frames; ) {
      const fill = this.#fill;
      const count = Math.min(frames - n, hop - fill);
      for (let c = 0; c < this.strips.length; c++) {
        const { x } = this.strips[c]!;
        const come = this.#come;
        copyFrames(input[c]!, n, come, 0, count);
        this.arrived(c, come, count, this.#startFrame + this.#turns * hop + fill);
        this.#exchange(this.#delay[c]!, come, count);
        const last = (HOPS - 1) * hop + fill;
        const out = OUT_HOP * hop + fill;
        const to = output[c]!;
        for (let i = 0; i < count; i++) {
          x[last + i] = come[i]!;
          to[n + i] = x[out + i]! * outputGain;
        }
      }
      // A hop never straddles the end of the ring: its length is a whole number of hops.
      if (this.#delay[0]!.length > 0) this.#delayAt = (this.#delayAt + count) % this.#delay[0]!.length;
      this.#fill += count;
      n += count;
      if (this.#fill === hop) this.#turn();
    }
  }

  /** Puts what comes into the ring, and gives what was there. */
  #exchange(ring: Float32Array, come: Float32Array, count: number): void {
    if (ring.length === 0) return;
    const at = this.#delayAt;
    for (let i = 0; i < count; i++) {
      const x = come[i]!;
      come[i] = ring[at + i]!;
      ring[at + i] = x;
    }
  }

  #turn(): void {
    this.#fill = 0;
    this.#turns++;
    const first = this.#startFrame + (this.#turns - (HOPS - 1 - MENDED_HOP)) * this.hop - this.#delay[0]!.length;
    for (const strip of this.strips) {
      strip.x.copyWithin(0, this.hop);
      this.mend(strip, first);
    }
  }
}
