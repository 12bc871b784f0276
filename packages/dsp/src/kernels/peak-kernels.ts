import { MAX_BLOCK_FRAMES } from '../processor.js';
import { KernelInstance, type KernelModule } from './instance.js';

/** Taps of each of the three interpolating phases: Kaiser-windowed sinc, flat within 0.05 dB to 0.45 fs. */
export const PEAK_TAPS = 24;
const KAISER_BETA = 6;

function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 40; k++) {
    term *= (x / 2 / k) ** 2;
    sum += term;
  }
  return sum;
}

/** Coefficients, oldest sample first, that interpolate at `fraction` (0 … 1) after the centre sample. */
export function interpolatingTaps(fraction: number): Float32Array {
  const half = PEAK_TAPS / 2;
  const taps = Float64Array.from({ length: PEAK_TAPS }, (_, t) => {
    const x = t - (half - 1) - fraction;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    return sinc * besselI0(KAISER_BETA * Math.sqrt(Math.max(0, 1 - (x / half) ** 2)));
  });
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return Float32Array.from(taps, (tap) => tap / sum);
}

/** Peak envelope of one channel at 4 × oversampling, `latencyFrames` late. */
export class TruePeakKernel {
  static readonly latencyFrames = PEAK_TAPS / 2;
  readonly envelope: Float32Array;
  readonly #input: Float32Array;
  readonly #process: (frames: number) => void;

  constructor(module: KernelModule) {
    const kernel = new KernelInstance(module, 'truePeakSetUp', PEAK_TAPS);
    this.envelope = kernel.floats('envelope', MAX_BLOCK_FRAMES);
    this.#input = kernel.floats('peakInput', MAX_BLOCK_FRAMES + PEAK_TAPS + 16);
    this.#process = kernel.call('truePeakProcess');
    const taps = kernel.floats('taps', 3 * PEAK_TAPS);
    [0.25, 0.5, 0.75].forEach((fraction, row) => taps.set(interpolatingTaps(fraction), row * PEAK_TAPS));
  }

  /** Takes samples[from … from + frames) and fills envelope[0 … frames). */
  process(samples: Float32Array, from: number, frames: number): void {
    const input = this.#input;
    for (let i = 0; i < frames; i++) input[PEAK_TAPS - 1 + i] = samples[from + i]!;
    this.#process(frames);
  }

  reset(): void {
    this.#input.fill(0);
  }
}

/** Look-ahead gain from a peak envelope; the gain belongs to the frame `reachFrames - 1` earlier. */
export class LimiterKernel {
  /** In: envelope. Out, in place: gain. */
  readonly control: Float32Array;
  readonly process: (frames: number, ceiling: number, releaseShare: number) => void;

  constructor(module: KernelModule, reachFrames: number) {
    const kernel = new KernelInstance(module, 'limiterSetUp', reachFrames);
    this.control = kernel.floats('control', MAX_BLOCK_FRAMES);
    this.process = kernel.call('limiterProcess');
  }
}
