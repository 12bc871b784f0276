import { copyFrames } from '../copy-frames.js';
import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import type { PlanarBlock } from '../processor.js';
import { frameSizeFor, HOPS_PER_FRAME } from '../spectrum/window.js';

/** What comes out is put together from pieces of this share of the frame that is looked at: 10.7 ms of 43 at 48 kHz. */
const PIECES_PER_FRAME = 4;

/** How long a piece is, in frames of sound: 512 at 44.1 and 48 kHz. It is all that the transform is late by. */
export const pieceFramesFor = (sampleRateHz: number): number => frameSizeFor(sampleRateHz) / PIECES_PER_FRAME;

/** √Hann of this length. */
const rootHann = (length: number, n: number): number => Math.sqrt(0.5 - 0.5 * Math.cos((2 * Math.PI * n) / length));

/**
 * A window that rises slowly over the past and falls fast at the newest samples, and the short one that makes sound of what was looked
 * at through it: their product is a Hann window over the newest `piece` samples (Mauler & Martin 2007, eq. 5 and 6). Analysed so, single
 * harmonics are told apart as in a long frame, and what comes out is late by the short one only. At 75 % overlap of the pieces they
 * add up to one.
 */
export function lowDelayWindows(size: number, piece: number): { readonly analysis: Float32Array; readonly synthesis: Float32Array } {
  const half = piece / 2;
  const rising = size - half;
  const analysis = Float32Array.from({ length: size }, (_, n) =>
    n < rising ? rootHann(2 * rising, n) : rootHann(piece, n - (size - piece)),
  );
  const synthesis = Float32Array.from({ length: size }, (_, n) => {
    const at = n - (size - piece);
    if (at < 0) return 0;
    return (n < rising ? rootHann(piece, at) ** 2 / Math.max(1e-9, analysis[n]!) : rootHann(piece, at)) / 2;
  });
  return { analysis, synthesis };
}

interface Lane {
  readonly history: Float32Array;
  /** Sum of the pieces; its first hop is finished. */
  readonly sum: Float32Array;
}

/** Weighs one channel of one frame: reads the bins of `fft`, writes them. */
export type WeighBins = (fft: RealFft, channel: number) => void;

/** A short-time transform for what is heard at once: frames of 43 ms, late by 10.7 ms. */
export class LowDelayTransform {
  readonly size: number;
  readonly hop: number;
  readonly bins: number;
  readonly latencyFrames: number;
  readonly analysis: Float32Array;
  readonly #synthesis: Float32Array;
  readonly #fft: RealFft;
  readonly #lanes: readonly Lane[];
  #fill = 0;

  constructor(kernels: KernelModule, sampleRateHz: number, channels: number) {
    this.size = frameSizeFor(sampleRateHz);
    const piece = pieceFramesFor(sampleRateHz);
    this.hop = piece / HOPS_PER_FRAME;
    this.bins = this.size / 2 + 1;
    this.latencyFrames = piece;
    this.#fft = new RealFft(kernels, this.size);
    ({ analysis: this.analysis, synthesis: this.#synthesis } = lowDelayWindows(this.size, piece));
    this.#lanes = Array.from({ length: channels }, () => ({
      history: new Float32Array(this.size),
      sum: new Float32Array(piece),
    }));
  }

  reset(): void {
    this.#fill = 0;
    for (const { history, sum } of this.#lanes) {
      history.fill(0);
      sum.fill(0);
    }
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number, weigh: WeighBins): void {
    const { hop, size } = this;
    for (let n = 0; n < frames;) {
      const fill = this.#fill;
      const count = Math.min(frames - n, hop - fill);
      for (let c = 0; c < this.#lanes.length; c++) {
        const { history, sum } = this.#lanes[c]!;
        copyFrames(input[c]!, n, history, size - hop + fill, count);
        copyFrames(sum, fill, output[c]!, n, count);
      }
      this.#fill = fill + count;
      n += count;
      if (this.#fill < hop) continue;
      this.#fill = 0;
      for (let c = 0; c < this.#lanes.length; c++) this.#turn(c, weigh);
    }
  }

  #turn(c: number, weigh: WeighBins): void {
    const { size, hop, analysis } = this;
    const synthesis = this.#synthesis;
    const fft = this.#fft;
    const { frame } = fft;
    const { history, sum } = this.#lanes[c]!;
    for (let n = 0; n < size; n++) frame[n] = history[n]! * analysis[n]!;
    history.copyWithin(0, hop);
    fft.forward();
    weigh(fft, c);
    fft.inverse();
    sum.copyWithin(0, hop);
    sum.fill(0, sum.length - hop);
    const from = size - sum.length;
    for (let n = 0; n < sum.length; n++) sum[n]! += frame[from + n]! * synthesis[from + n]!;
  }
}
