import { RealFft } from '../kernels/real-fft.js';
import type { KernelModule } from '../kernels/instance.js';

/** Where one signal lies in another, and how clearly. */
export interface Match {
  /** Frames by which b is later in a: b[n] belongs to a[n + lag]. */
  readonly lag: number;
  /** Correlation there, -1 … 1 for signals of even spectrum; with its sign. */
  readonly value: number;
  /** How far it stands over the next best one that is not beside it, as a ratio. */
  readonly clear: number;
}

/**
 * Cross-correlation of two signals by way of a Fourier transform (Oppenheim & Schafer, circular convolution with zeros behind), each
 * bin weighed by |A B|^-whitening: 0 plain, 1 phase alone (Knapp & Carter 1976, PHAT). Lags from -(b.length - 1) to a.length - 1.
 */
export class Correlator {
  readonly #a: RealFft;
  readonly #b: RealFft;

  /** @param mostFrames the longest sum of both lengths */
  constructor(
    kernels: KernelModule,
    readonly mostFrames: number,
  ) {
    const size = Math.max(64, 2 ** Math.ceil(Math.log2(mostFrames)));
    this.#a = new RealFft(kernels, size);
    this.#b = new RealFft(kernels, size);
  }

  /** The correlation by lag, in circular order: lag n at n, lag -n at size - n. The array is used again. */
  correlate(a: Float32Array, b: Float32Array, whitening: number): Float32Array {
    const { size } = this.#a;
    for (const [fft, x] of [
      [this.#a, a],
      [this.#b, b],
    ] as const) {
      fft.frame.fill(0);
      fft.frame.set(x);
      fft.forward();
    }
    const { re: ar, im: ai } = this.#a;
    const { re: br, im: bi } = this.#b;
    for (let k = 0; k <= size / 2; k++) {
      const re = ar[k]! * br[k]! + ai[k]! * bi[k]!;
      const im = ai[k]! * br[k]! - ar[k]! * bi[k]!;
      const weight = 1 / (Math.hypot(re, im) + 1e-20) ** whitening;
      ar[k] = re * weight;
      ai[k] = im * weight;
    }
    this.#a.inverse();
    return this.#a.frame;
  }

  /**
   * The lag from `from` to `to` at which both are most alike, by magnitude where `eitherSign`.
   * @param apartFrames what lies nearer to it is the same place
   */
  best(
    a: Float32Array,
    b: Float32Array,
    {
      from,
      to,
      whitening,
      apartFrames,
      eitherSign,
    }: { from: number; to: number; whitening: number; apartFrames: number; eitherSign: boolean },
  ): Match {
    const all = this.correlate(a, b, whitening);
    const { size } = this.#a;
    const at = (lag: number): number => all[lag < 0 ? lag + size : lag]!;
    const height = (lag: number): number => (eitherSign ? Math.abs(at(lag)) : at(lag));
    let lag = from;
    for (let l = from; l <= to; l++) if (height(l) > height(lag)) lag = l;
    let next = 1e-20;
    for (let l = from; l <= to; l++) if (Math.abs(l - lag) > apartFrames) next = Math.max(next, height(l));
    return { lag, value: at(lag), clear: height(lag) / next };
  }
}

/** The top of a parabola through three neighbours, -0.5 … 0.5 off the middle one. */
export function parabolicTop(before: number, middle: number, after: number): number {
  const bend = before - 2 * middle + after;
  return bend === 0 ? 0 : Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend));
}
