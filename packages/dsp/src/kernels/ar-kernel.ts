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
    kernel.doubles('modelWindow', windowLength).set(
      Float64Array.from({ length: windowLength }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / windowLength)),
    );
    this.model = kernel.call('arModel');
    this.residual = kernel.call('arResidual');
    this.interpolate = kernel.call('arInterpolate');
  }
}

/** Order of the model for a sample rate: 12 at 8 kHz to 40. Godsill & Rayner 1998 use 20-40 for speech and music. */
export const arOrder = (sampleRateHz: number): number => Math.max(12, Math.min(40, 8 + Math.round(sampleRateHz / 1600)));
