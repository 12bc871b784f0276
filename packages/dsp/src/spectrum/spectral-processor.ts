import { copyFrames } from '../copy-frames.js';
import { KernelInstance, type KernelModule } from '../kernels/instance.js';
import type { PlanarBlock, Processor, ProcessorContext } from '../processor.js';
import { analysisWindow, HOPS_PER_FRAME } from './window.js';

/** Analysis and synthesis of one channel (kernels/weighing.ts). */
class WeighingKernel {
  readonly history: Float32Array;
  readonly overlap: Float32Array;
  readonly power: Float32Array;
  readonly gain: Float32Array;
  readonly analyse: (slot: number) => void;
  readonly add: (slot: number, weighed: number) => void;

  constructor(module: KernelModule, size: number, slots: number) {
    const kernel = new KernelInstance(module, 'weighSetUp', size, slots);
    this.history = kernel.floats('weighHistory', size);
    this.overlap = kernel.floats('weighOverlap', size);
    this.power = kernel.floats('weighPower', size / 2 + 1);
    this.gain = kernel.floats('weighGain', size / 2 + 1);
    this.analyse = kernel.call('weighAnalyse');
    this.add = kernel.call('weighAdd');
    kernel.floats('weighWindow', size).set(analysisWindow(size));
  }
}

/**
 * A treatment that weighs the bins of a short-time Fourier transform: √Hann windows, 75 % overlap, perfect
 * reconstruction where no gain is applied. Every channel gets the same gains, so that the image stands still.
 * Frame f covers the frames [(f + 1) hop - size, (f + 1) hop) of the stream.
 */
export abstract class SpectralProcessor implements Processor {
  readonly latencyFrames: number;
  protected readonly hop: number;
  protected readonly bins: number;
  protected readonly binHz: number;
  readonly #lanes: WeighingKernel[];
  readonly #power: Float32Array;
  readonly #gain: Float32Array;
  #fill = 0;
  #frameIndex = 0;

  /** @param lookAhead how many frames after the one at hand are known when its gains are asked for. */
  constructor(
    { channels, kernels, sampleRateHz }: ProcessorContext,
    protected readonly size: number,
    protected readonly lookAhead = 0,
  ) {
    this.hop = size / HOPS_PER_FRAME;
    this.bins = size / 2 + 1;
    this.binHz = sampleRateHz / size;
    this.latencyFrames = size + lookAhead * this.hop;
    this.#lanes = Array.from({ length: channels }, () => new WeighingKernel(kernels, size, lookAhead + 1));
    const [first] = this.#lanes as [WeighingKernel];
    this.#power = channels === 1 ? first.power : new Float32Array(this.bins);
    this.#gain = first.gain;
  }

  /** A frame has come: its power spectrum |X|² under the window, the mean of the channels. */
  protected abstract frameArrived(power: Float32Array, frameIndex: number): void;

  /** Writes the gain of every bin of a frame. False when it stays as it is. */
  protected abstract gainsOf(gain: Float32Array, frameIndex: number): boolean;

  /** Forgets all that was heard. */
  protected abstract forget(): void;

  reset(): void {
    this.#fill = 0;
    this.#frameIndex = 0;
    for (const { history, overlap } of this.#lanes) {
      history.fill(0);
      overlap.fill(0);
    }
    this.forget();
  }

  /** Frames are counted as if it had begun at the beginning of the stream. For what keeps them by their count. */
  protected countFrom(frame: number): void {
    this.#frameIndex = Math.round(frame / this.hop);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const { hop, size } = this;
    const lanes = this.#lanes;
    for (let n = 0; n < frames;) {
      const fill = this.#fill;
      const count = Math.min(frames - n, hop - fill);
      for (let c = 0; c < lanes.length; c++) {
        const { history, overlap } = lanes[c]!;
        copyFrames(input[c]!, n, history, size - hop + fill, count);
        copyFrames(overlap, fill, output[c]!, n, count);
      }
      this.#fill = fill + count;
      n += count;
      if (this.#fill === hop) this.#turn();
    }
  }

  #turn(): void {
    const lanes = this.#lanes;
    const slots = this.lookAhead + 1;
    const index = this.#frameIndex++;
    this.#fill = 0;
    for (let c = 0; c < lanes.length; c++) lanes[c]!.analyse(index % slots);
    if (lanes.length > 1) this.#mixPower();
    this.frameArrived(this.#power, index);
    const due = index - this.lookAhead;
    const weighed = due >= 0 && this.gainsOf(this.#gain, due) ? 1 : 0;
    for (let c = 0; c < lanes.length; c++) {
      const lane = lanes[c]!;
      if (weighed && c > 0) lane.gain.set(this.#gain);
      lane.add(due < 0 ? -1 : due % slots, weighed);
    }
  }

  #mixPower(): void {
    const { bins } = this;
    const power = this.#power;
    const share = 1 / this.#lanes.length;
    power.fill(0);
    for (const lane of this.#lanes) for (let k = 0; k < bins; k++) power[k]! += lane.power[k]! * share;
  }
}

/** Sum of power[from … to). */
export function bandPower(power: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let k = from; k < to; k++) sum += power[k]!;
  return sum;
}
