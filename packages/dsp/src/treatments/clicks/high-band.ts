import type { ArKernel } from '../../kernels/ar-kernel.js';

/** The body of the voice, which a long click hardly touches, lies below. */
const EDGE_HZ = 1300;
/** What lies above has no pulses to be foretold from one to the next: a shorter model does. */
const MODEL_SECONDS = 0.002;
/** Half the length of the filter that parts them. */
const REACH_SECONDS = 0.0016;

/** Fills what lies above the body of the voice, and leaves that as it is. */
export class HighBand {
  readonly #taps: Float64Array;
  readonly #reach: number;
  readonly #order: number;

  constructor(sampleRateHz: number) {
    const reach = Math.round(REACH_SECONDS * sampleRateHz);
    this.#order = Math.round(MODEL_SECONDS * sampleRateHz);
    const cut = (2 * EDGE_HZ) / sampleRateHz;
    // Low-pass: a sinc under a Blackman window, with a gain of one.
    const taps = Float64Array.from({ length: 2 * reach + 1 }, (_, i) => {
      const t = i - reach;
      const turn = (Math.PI * t) / (reach + 1);
      return (t === 0 ? cut : Math.sin(Math.PI * cut * t) / (Math.PI * t)) * (0.42 + 0.5 * Math.cos(turn) + 0.08 * Math.cos(2 * turn));
    });
    const sum = taps.reduce((all, tap) => all + tap, 0);
    this.#taps = taps.map((tap) => tap / sum);
    this.#reach = reach;
  }

  /**
   * Replaces the upper part of x[from … to) by what the upper part around predicts (least squares).
   * @param modelAt where the model is taken: what it needs lies in `windowFrames` from there.
   */
  fill(x: Float64Array, from: number, to: number, ar: ArKernel, modelAt: number, windowFrames: number): void {
    const { strip, order } = ar;
    const [taps, reach] = [this.#taps, this.#reach];
    const first = Math.max(reach, Math.min(modelAt, from - order) - 1);
    const last = Math.min(x.length - reach, Math.max(modelAt + windowFrames, to + order) + 1);
    for (let n = first; n < last; n++) {
      let low = 0;
      for (let i = 0; i < taps.length; i++) low += taps[i]! * x[n + i - reach]!;
      strip[n] = x[n]! - low;
    }
    for (let n = from; n < to; n++) {
      ar.missing[n - from] = n;
      x[n]! -= strip[n]!;
      // A first filling with nothing, so that the model is of what is around and not of the click.
      strip[n] = 0;
    }
    ar.useOrder(this.#order);
    for (let round = 0; round < 2; round++) {
      ar.model(modelAt, 0);
      ar.interpolate(to - from, 0);
    }
    ar.useOrder(order);
    for (let n = from; n < to; n++) x[n]! += strip[n]!;
  }
}
