import { copyFrames } from '../copy-frames.js';
import type { Memory } from '../memory.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock } from '../processor.js';
import { KernelInstance, type KernelModule } from './instance.js';

/** Taps of each interpolating phase: Kaiser-windowed sinc, flat within 0.05 dB to 0.45 fs. */
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
export function interpolatingTaps(fraction: number, count = PEAK_TAPS, beta = KAISER_BETA): Float32Array {
  const half = count / 2;
  const taps = Float64Array.from({ length: count }, (_, t) => {
    const x = t - (half - 1) - fraction;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    return sinc * besselI0(beta * Math.sqrt(Math.max(0, 1 - (x / half) ** 2)));
  });
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return Float32Array.from(taps, (tap) => tap / sum);
}

/** A limiter's phases are longer and fall off later: noise up to half the rate stays under the ceiling too. */
const FINE_TAPS = 64;
const FINE_BETA = 2;

/** What a meter reads: 4 × oversampling. */
const ROWS = [0.25, 0.5, 0.75].map((fraction) => interpolatingTaps(fraction));
/** What a limiter goes by, the first three first: 10 ×, so that a tone at 0.45 fs is under-read by less than 0.09 dB (4 ×: by 0.55). */
const FINE_ROWS = [0.2, 0.5, 0.8, 0.1, 0.3, 0.4, 0.6, 0.7, 0.9].map((fraction) => interpolatingTaps(fraction, FINE_TAPS, FINE_BETA));
/** How far interpolation can exceed the samples: the largest sum of magnitudes, and a little for 32-bit sums. */
const BOUND = 1.001 * Math.max(...[...ROWS, ...FINE_ROWS].map((row) => row.reduce((sum, tap) => sum + Math.abs(tap), 0)));
/** A limiter goes so much lower than it is told, for what lies between ten times as many samples. */
const MARGIN = 10 ** (-0.04 / 20);

function fillTaps(kernel: KernelInstance, rows: readonly Float32Array[]): void {
  const taps = kernel.floats('taps', rows.length * rows[0]!.length);
  rows.forEach((row, i) => taps.set(row, i * row.length));
}

/** Samples of the true-peak input of each channel: history, newest block, padding. */
const strideOf = (taps: number): number => MAX_BLOCK_FRAMES + taps + 32;

/** Peak envelope of one channel at 4 × oversampling, `latencyFrames` late. */
export class TruePeakKernel {
  static readonly latencyFrames = PEAK_TAPS / 2;
  readonly envelope: Float32Array;
  readonly #input: Float32Array;
  readonly #process: (channel: number, frames: number, limit: number, bound: number) => void;

  constructor(module: KernelModule) {
    const kernel = new KernelInstance(module, 'truePeakSetUp', PEAK_TAPS, 1, ROWS.length / 3);
    this.envelope = kernel.floats('envelope', MAX_BLOCK_FRAMES);
    this.#input = kernel.floats('peakInput', strideOf(PEAK_TAPS));
    this.#process = kernel.call('truePeakProcess');
    fillTaps(kernel, ROWS);
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

/** How a limiter is set: gain before it, ceiling (both factors), shares of its way that its gain comes back a frame. */
export interface LimiterTurn {
  readonly gain: number;
  readonly ceiling: number;
  readonly releaseShare: number;
  readonly denseShare?: number;
  readonly latelyShare?: number;
}

/** The whole limiter for a number of channels with one gain. */
export class LimiterKernel {
  readonly latencyFrames: number;
  readonly #input: Float32Array;
  readonly #limited: Float32Array;
  readonly #leastGain: { readonly value: number };
  readonly #limitedFrames: { readonly value: number };
  readonly #control: Float32Array;
  readonly #remembered: readonly { value: number }[];
  readonly #process: (
    frames: number,
    gain: number,
    ceiling: number,
    releaseShare: number,
    denseShare: number,
    latelyShare: number,
    bound: number,
  ) => void;

  constructor(
    module: KernelModule,
    reachFrames: number,
    private readonly channels: number,
  ) {
    const kernel = new KernelInstance(module, 'limiterSetUp', reachFrames, FINE_TAPS, channels, FINE_ROWS.length / 3);
    this.latencyFrames = reachFrames - 1 + FINE_TAPS / 2;
    this.#leastGain = kernel.number('leastGain');
    this.#limitedFrames = kernel.number('limitedFrames');
    this.#input = kernel.floats('peakInput', strideOf(FINE_TAPS) * channels);
    this.#limited = kernel.floats('limited', MAX_BLOCK_FRAMES * channels);
    this.#control = kernel.floats('control', MAX_BLOCK_FRAMES);
    this.#remembered = [kernel.number('released'), kernel.number('missingLately')];
    this.#process = kernel.call('limiterProcess');
    fillTaps(kernel, FINE_ROWS);
  }

  /** The least gain so far. */
  get leastGain(): number {
    return this.#leastGain.value;
  }

  /** Frames so far that were lowered by 0.1 dB or more. */
  get limitedFrames(): number {
    return this.#limitedFrames.value;
  }

  /** Gains of the frames that went out last, from index 0 on. */
  get gains(): Float32Array {
    return this.#control;
  }

  remember(memory: Memory): void {
    for (const cell of this.#remembered) memory.cell(cell);
  }

  /** Dense and lately: how fast the gain comes back where there was much to limit, and how fast that is forgotten. */
  process(
    input: PlanarBlock,
    output: PlanarBlock,
    frames: number,
    { gain, ceiling, releaseShare, denseShare = releaseShare, latelyShare = 0 }: LimiterTurn,
  ): void {
    for (let c = 0; c < this.channels; c++) copyFrames(input[c]!, 0, this.#input, strideOf(FINE_TAPS) * c + FINE_TAPS - 1, frames);
    this.#process(frames, gain, MARGIN * ceiling, releaseShare, denseShare, latelyShare, BOUND);
    for (let c = 0; c < this.channels; c++) copyFrames(this.#limited, MAX_BLOCK_FRAMES * c, output[c]!, 0, frames);
  }
}
