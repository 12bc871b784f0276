import { DspError } from '../errors.js';
import { KernelInstance, type KernelModule } from './instance.js';

/** Throws `fft-size` unless size is a power of two from 64 to 32768. */
export function requireFftSize(size: number): void {
  if (!Number.isInteger(Math.log2(size)) || size < 64 || size > 32768)
    throw new DspError('fft-size', `An FFT takes a power of two from 64 to 32768 samples, not ${size}.`, { size });
}

/**
 * Real FFT with memory of its own. Fill `frame`, call `forward`, read `re` and `im` (size / 2 + 1 bins:
 * X[k] = sum x[n] e^(-2πikn/N), unscaled); or fill the bins, call `inverse`, read `frame`.
 * inverse(forward(x)) = x. @throws {DspError} `fft-size`
 */
export class RealFft {
  readonly frame: Float32Array;
  readonly re: Float32Array;
  readonly im: Float32Array;
  readonly forward: () => void;
  readonly inverse: () => void;

  constructor(
    module: KernelModule,
    readonly size: number,
  ) {
    requireFftSize(size);
    const kernel = new KernelInstance(module, 'fftSetUp', size);
    this.frame = kernel.floats('frame', size);
    this.re = kernel.floats('binRe', size / 2 + 1);
    this.im = kernel.floats('binIm', size / 2 + 1);
    this.forward = kernel.call('forward');
    this.inverse = kernel.call('inverse');
  }
}
