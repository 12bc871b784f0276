import { KernelInstance, type KernelModule } from './instance.js';

/**
 * AR models and interpolation over one strip of sound (kernels/autoregressive.ts). Eight models can be kept.
 * Models: windowed autocorrelation, Levinson and Durbin (Rabiner & Schafer 1978, eq. 8.60-8.64). Interpolation: the
 * missing samples that make the sum of the squared prediction errors least (Janssen, Veldhuis & Vries 1986, eq. 12-14;
 * Godsill & Rayner 1998, eq. 5.15); the matrix is banded, solved by Cholesky within its band.
 */
export class ArKernel {
  readonly strip: Float64Array;
  readonly predictionError: Float64Array;
  /** Coefficients a[0 … order] of the eight models, one after the other. */
  readonly models: Float64Array;
  /** Indices in `strip` of the samples to find, ascending, at least `order` from either end. */
  readonly missing: Int32Array;
  /** For each of them, 1 above and -1 below. */
  readonly sides: Int32Array;
  /** The hop that comes and the hop that goes: `take` moves the strip one hop on, `send` makes a hop ready. */
  readonly incoming: Float32Array;
  readonly outgoing: Float32Array;
  readonly take: (hop: number, length: number) => void;
  readonly send: (hop: number, from: number, gain: number) => void;
  /** Models of another order from now on, up to the one it was made with. */
  readonly useOrder: (order: number) => void;
  /** Finds what lies at or beyond `up` or `-down` in strip[from … to): into `missing` and `sides`; returns how many. */
  readonly findBeyond: (from: number, to: number, up: number, down: number) => number;
  /** Holds the first `count` of `missing` beyond the level of their side, and within `most` times it. */
  readonly holdBeyond: (count: number, up: number, down: number, most: number) => void;
  /** Model `model` from strip[start … start + windowLength). */
  readonly model: (start: number, model: number) => void;
  /** predictionError[from … to) with a model; `from` is at least `order`. */
  readonly residual: (from: number, to: number, model: number) => void;
  /** Finds the first `count` of `missing` with a model. */
  readonly interpolate: (count: number, model: number) => void;

  constructor(
    module: KernelModule,
    readonly order: number,
    length: number,
    windowLength: number,
    most: number,
  ) {
    const kernel = new KernelInstance(module, 'arSetUp', order, length, windowLength, most);
    this.strip = kernel.doubles('strip', length);
    this.predictionError = kernel.doubles('predictionError', length);
    this.models = kernel.doubles('models', 8 * (order + 1));
    this.missing = kernel.ints('missing', most);
    this.sides = kernel.ints('sides', most);
    this.incoming = kernel.floats('incoming', windowLength / 2);
    this.outgoing = kernel.floats('outgoing', windowLength / 2);
    this.take = kernel.call('arTake');
    this.send = kernel.call('arSend');
    this.useOrder = kernel.call('arUseOrder');
    this.findBeyond = kernel.call('arFindBeyond');
    this.holdBeyond = kernel.call('arHoldBeyond');
    kernel
      .doubles('modelWindow', windowLength)
      .set(Float64Array.from({ length: windowLength }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / windowLength)));
    this.model = kernel.call('arModel');
    this.residual = kernel.call('arResidual');
    this.interpolate = kernel.call('arInterpolate');
  }
}

/** Order of the model for a sample rate: 12 at 8 kHz to 40. Godsill & Rayner 1998 use 20-40 for speech and music. */
export const arOrder = (sampleRateHz: number): number => Math.max(12, Math.min(40, 8 + Math.round(sampleRateHz / 1600)));
