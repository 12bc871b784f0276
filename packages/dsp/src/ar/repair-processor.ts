import { copyFrames } from '../copy-frames.js';
import { ArKernel, arOrder } from '../kernels/ar-kernel.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { frameSizeFor } from '../spectrum/window.js';

/** Hops held of each channel: the one that goes out next, and those around the one that is mended. */
export const HOPS = 7;
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
  /** Rings of the hops that are known and not yet in the strip. */
  readonly #delay: Float32Array[];
  readonly #come: Float32Array;
  readonly #held: Float32Array;
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
    this.#held = new Float32Array(this.hop);
    const delay = Math.round((aheadSeconds * sampleRateHz) / this.hop) * this.hop;
    this.#delay = this.strips.map(() => new Float32Array(delay));
    this.latencyFrames = (HOPS - OUT_HOP) * this.hop + delay;
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
    for (const { x, ar } of this.strips) {
      x.fill(0);
      ar.outgoing.fill(0);
    }
    for (const delay of this.#delay) delay.fill(0);
    this.forget();
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const { hop } = this;
    for (let n = 0; n < frames;) {
      const fill = this.#fill;
      const count = Math.min(frames - n, hop - fill);
      for (let c = 0; c < this.strips.length; c++) {
        const { incoming, outgoing } = this.strips[c]!.ar;
        copyFrames(input[c]!, n, this.#come, 0, count);
        this.arrived(c, this.#come, count, this.#startFrame + this.#turns * hop + fill);
        copyFrames(this.#come, 0, incoming, fill, count);
        copyFrames(outgoing, fill, output[c]!, n, count);
      }
      this.#fill += count;
      n += count;
      if (this.#fill === hop) this.#turn();
    }
  }

  /** Puts the hop that came into the ring, and takes the one that was there. */
  #exchange(ring: Float32Array, incoming: Float32Array): void {
    copyFrames(incoming, 0, this.#held, 0, this.hop);
    copyFrames(ring, this.#delayAt, incoming, 0, this.hop);
    copyFrames(this.#held, 0, ring, this.#delayAt, this.hop);
  }

  #turn(): void {
    const { hop } = this;
    this.#fill = 0;
    this.#turns++;
    const delayFrames = this.#delay[0]!.length;
    const first = this.#startFrame + (this.#turns - (HOPS - MENDED_HOP)) * hop - delayFrames;
    for (const strip of this.strips) {
      const { ar, channel } = strip;
      if (delayFrames > 0) this.#exchange(this.#delay[channel]!, ar.incoming);
      ar.take(hop, HOPS * hop);
      this.mend(strip, first);
      ar.send(hop, OUT_HOP * hop, this.outputGain);
    }
    if (delayFrames > 0) this.#delayAt = (this.#delayAt + hop) % delayFrames;
  }
}
