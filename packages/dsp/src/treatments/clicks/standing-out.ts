import { RealFft } from '../../kernels/real-fft.js';
import type { KernelModule } from '../../kernels/instance.js';
import { frameSizeFor } from '../../spectrum/window.js';

/** The body of the voice, which a long click hardly touches, lies below. */
const EDGE_HZ = 1000;
/** So much of what lies before and behind tells what belongs there. */
const AROUND_FRAMES = 8;
/** What stands out by less power than so many times is left as it is. */
const LEAST_RATIO = 3;
/** It rings on for so long at most, while this share of what is above the body of the voice stands out. */
const TAIL_MS = 6;
const RINGS_SHARE = 0.3;
const POWER_FLOOR = 1e-20;

/**
 * Takes out of a stretch, above the body of the voice, what stands out of what the same bands hold before and behind it: Wiener's
 * gain on a short-time Fourier transform of 2.7 ms, the click being what is more than that. Bands that the click does not touch stay.
 */
export class StandingOut {
  readonly #fft: RealFft;
  readonly #window: Float64Array;
  readonly #edgeBin: number;
  readonly #before: Float64Array;
  readonly #behind: Float64Array;
  readonly #change: Float64Array;
  readonly #tailFrames: number;

  /** @param mostFrames the longest stretch */
  constructor(kernels: KernelModule, sampleRateHz: number, mostFrames: number) {
    const size = Math.max(64, frameSizeFor(sampleRateHz) / 16);
    this.#fft = new RealFft(kernels, size);
    this.#window = Float64Array.from({ length: size }, (_, n) => Math.sin((Math.PI * (n + 0.5)) / size));
    this.#edgeBin = Math.round((EDGE_HZ * size) / sampleRateHz);
    this.#before = new Float64Array(size / 2 + 1);
    this.#behind = new Float64Array(size / 2 + 1);
    this.#tailFrames = Math.round((TAIL_MS / 1000) * sampleRateHz);
    this.#change = new Float64Array(mostFrames + this.#tailFrames + 3 * size);
  }

  /** Lowers what stands out in x[from … to), and what rings on behind it. Returns where what was changed ends. */
  lower(x: Float64Array, from: number, to: number): number {
    const { size } = this.#fft;
    const hop = size / 4;
    const last = to + this.#tailFrames;
    this.#usual(x, from - size - (AROUND_FRAMES - 1) * hop, this.#before);
    this.#usual(x, last, this.#behind);
    const change = this.#change.fill(0);
    const first = from - size + hop;
    let end = to;
    for (let at = first; at < last; at += hop) {
      const middle = at + size / 2;
      this.#analyse(x, at);
      const out = this.#keepWhatStandsOut(Math.min(1, Math.max(0, (middle - from) / (last - from))));
      if (middle > to && out < RINGS_SHARE) break;
      if (middle > to) end = Math.min(last, middle + hop);
      this.#fft.inverse();
      // Half: at an overlap of three quarters the squared windows add up to two.
      for (let n = 0; n < size; n++) change[at - first + n]! += 0.5 * this.#window[n]! * this.#fft.frame[n]!;
    }
    for (let n = from; n < end; n++) x[n]! -= change[n - first]!;
    return end;
  }

  #analyse(x: Float64Array, at: number): void {
    const { frame, size } = this.#fft;
    for (let n = 0; n < size; n++) frame[n] = this.#window[n]! * (x[at + n] ?? 0);
    this.#fft.forward();
  }

  /** Mean power by bin of the frames from `at` on. */
  #usual(x: Float64Array, at: number, into: Float64Array): void {
    const { re, im, size } = this.#fft;
    into.fill(POWER_FLOOR);
    for (let i = 0; i < AROUND_FRAMES; i++) {
      this.#analyse(x, at + (i * size) / 4);
      for (let k = 0; k < into.length; k++) into[k]! += (re[k]! ** 2 + im[k]! ** 2) / AROUND_FRAMES;
    }
  }

  /**
   * Of the spectrum at hand, at this share of the way from before to behind, what is more than what belongs there. Returns how much
   * of the power above the body of the voice that is, 0 … 1.
   */
  #keepWhatStandsOut(share: number): number {
    const { re, im } = this.#fft;
    let all = POWER_FLOOR;
    let more = 0;
    for (let k = 0; k < re.length; k++) {
      const power = re[k]! ** 2 + im[k]! ** 2;
      const usual = this.#before[k]! ** (1 - share) * this.#behind[k]! ** share;
      const out = k < this.#edgeBin || power < LEAST_RATIO * usual ? 0 : 1 - usual / power;
      re[k]! *= out;
      im[k]! *= out;
      if (k < this.#edgeBin) continue;
      all += power;
      more += out * out * power;
    }
    return more / all;
  }
}
