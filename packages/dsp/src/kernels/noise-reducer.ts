import { exponentialIntegral } from './exponential-integral.js';
import { KernelInstance, type KernelModule } from './instance.js';
import { requireFftSize } from './real-fft.js';

const TABLE_LOW = 2 ** -20;
const STEPS_PER_OCTAVE = 128;
const TABLE_LENGTH = 25 * STEPS_PER_OCTAVE + 1;

/** exp(E1(v) / 2) at v = 2^octave (1 + step / 128), from 2^-20 to 2^5: what the kernel interpolates. */
function gainTable(): Float32Array {
  return Float32Array.from({ length: TABLE_LENGTH }, (_, index) => {
    const octave = Math.floor(index / STEPS_PER_OCTAVE);
    const v = TABLE_LOW * 2 ** octave * (1 + (index % STEPS_PER_OCTAVE) / STEPS_PER_OCTAVE);
    return Math.exp(exponentialIntegral(v) / 2);
  });
}

let sharedTable: Float32Array | undefined;

/** How one frame is reduced. Shares are 0 … 1 of the step towards the new gain that one frame takes. */
export type ReduceFrame = (
  decisionMemory: number,
  minPriorSnr: number,
  floorGain: number,
  reachBins: number,
  openingShare: number,
  closingShare: number,
) => void;

/** The noise-reduction kernel for one channel: a hop into `history`, `reduceHop`, a hop out of `overlap`. */
export class NoiseReducer {
  readonly frame: Float32Array;
  readonly window: Float32Array;
  /** The last `size` samples; write the newest hop at its end, then call reduceHop. */
  readonly history: Float32Array;
  /** Its first hop is finished after each reduceHop. */
  readonly overlap: Float32Array;
  /** 1 / (noise power × threshold) per bin; size / 2 + 1 values. */
  readonly inverseNoise: Float32Array;
  readonly speechPower: Float32Array;
  readonly gain: Float32Array;
  readonly reduceFrame: ReduceFrame;
  readonly reduceHop: ReduceFrame;

  constructor(module: KernelModule, size: number) {
    requireFftSize(size);
    const kernel = new KernelInstance(module, 'noiseReductionSetUp', size);
    const bins = size / 2 + 1;
    this.frame = kernel.floats('frame', size);
    this.window = kernel.floats('window', size);
    this.history = kernel.floats('history', size);
    this.overlap = kernel.floats('overlap', size);
    this.inverseNoise = kernel.floats('inverseNoise', bins);
    this.speechPower = kernel.floats('speechPower', bins);
    this.gain = kernel.floats('gain', bins);
    this.reduceFrame = kernel.call('reduceFrame');
    this.reduceHop = kernel.call('reduceHop');
    kernel.floats('table', TABLE_LENGTH).set((sharedTable ??= gainTable()));
  }
}
