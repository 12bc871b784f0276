import { copyFrames } from '../copy-frames.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
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

const ROWS = [0.25, 0.5, 0.75].map(interpolatingTaps);
/** How far interpolation can exceed the samples: the largest sum of magnitudes, and a little for 32-bit sums. */
const BOUND = 1.001 * Math.max(...ROWS.map((row) => row.reduce((sum, tap) => sum + Math.abs(tap), 0)));

function fillTaps(kernel: KernelInstance): void {
  const taps = kernel.floats('taps', 3 * PEAK_TAPS);
  ROWS.forEach((row, i) => taps.set(row, i * PEAK_TAPS));
}

/** Samples of the true-peak input of each channel: history, newest block, padding. */
const INPUT_STRIDE = MAX_BLOCK_FRAMES + PEAK_TAPS + 32;

/** Peak envelope of one channel at 4 × oversampling, `latencyFrames` late. */
export class TruePeakKernel {
  static readonly latencyFrames = PEAK_TAPS / 2;
  readonly envelope: Float32Array;
  readonly #input: Float32Array;
  readonly #process: (channel: number, frames: number, limit: number, bound: number) => void;

  constructor(module: KernelModule) {
    const kernel = new KernelInstance(module, 'truePeakSetUp', PEAK_TAPS, 1);
    this.envelope = kernel.floats('envelope', MAX_BLOCK_FRAMES);
    this.#input = kernel.floats('peakInput', INPUT_STRIDE);
    this.#process = kernel.call('truePeakProcess');
    fillTaps(kernel);
  }

  /**
   * Takes samples[from … from + frames) and fills envelope[0 … frames). Where nothing can reach `limit`, the
   * envelope holds the samples' own magnitudes: whoever only asks what is above the limit saves the work.
   */
  process(samples: Float32Array, from: number, frames: number, limit = 0): void {
    copyFrames(samples, from, this.#input, PEAK_TAPS - 1, frames);
    this.#process(0, frames, limit, BOUND);
  }

  reset(): void {
    this.#input.fill(0);
  }
}

/** The whole limiter for a number of channels with one gain. */
export class LimiterKernel {
  readonly latencyFrames: number;
  readonly #input: Float32Array;
  readonly #limited: Float32Array;
  readonly #leastGain: { readonly value: number };
  readonly #limitedFrames: { readonly value: number };
  readonly #process: (frames: number, gain: number, ceiling: number, releaseShare: number, bound: number) => void;

  constructor(
    module: KernelModule,
    reachFrames: number,
    private readonly channels: number,
  ) {
    const kernel = new KernelInstance(module, 'limiterSetUp', reachFrames, PEAK_TAPS, channels);
    this.latencyFrames = reachFrames - 1 + PEAK_TAPS / 2;
    this.#leastGain = kernel.number('leastGain');
    this.#limitedFrames = kernel.number('limitedFrames');
    this.#input = kernel.floats('peakInput', INPUT_STRIDE * channels);
    this.#limited = kernel.floats('limited', MAX_BLOCK_FRAMES * channels);
    this.#process = kernel.call('limiterProcess');
    fillTaps(kernel);
  }

  /** The least gain so far. */
  get leastGain(): number {
    return this.#leastGain.value;
  }

  /** Frames so far that were lowered by 0.1 dB or more. */
  get limitedFrames(): number {
    return this.#limitedFrames.value;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number, gain: number, ceiling: number, releaseShare: number): void {
    for (let c = 0; c < this.channels; c++) copyFrames(input[c]!, 0, this.#input, INPUT_STRIDE * c + PEAK_TAPS - 1, frames);
    this.#process(frames, gain, ceiling, releaseShare, BOUND);
    for (let c = 0; c < this.channels; c++) copyFrames(this.#limited, MAX_BLOCK_FRAMES * c, output[c]!, 0, frames);
  }
}
