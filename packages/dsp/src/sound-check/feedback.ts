import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import { hannWindow } from '../spectrum/window.js';
import { powerToDb } from '../units.js';

const FRAME_SECONDS = 0.043;
/** A whistle of a loop stands so far over what is near it, and over its own harmonics (van Waterschoot & Moonen 2011, their PNPR and PHPR; thresholds from memory). */
const OVER_NEAR_DB = 15;
const OVER_HARMONICS_DB = 28;
/** Bins that the window itself spreads a line over. */
const MAIN_LOBE_BINS = 3;
const NEAR_BINS = 8;
/** It rises, evenly: so much over so many looks, and hardly ever falls in between (the idea of IMSD there). */
const LOOKS = 7;
const RISE_DB = 6;
const FALL_DB = 1.5;
/** Or it stays, at full scale or near it, and is most of all that is heard. */
const STAYS_LOOKS = 10;
const LOUD_DBFS = -12;
const MOST_SHARE = 0.6;
/** Below this nobody is hurt. */
const LEAST_DBFS = -50;
const LOWEST_HZ = 80;

/** Notices a loop from headphones or loudspeakers into the microphone: one line that rises and rises. Fed with the microphone. */
export class FeedbackGuard {
  readonly #fft: RealFft;
  readonly #window: Float32Array;
  readonly #history: Float32Array;
  readonly #binHz: number;
  readonly #scale: number;
  readonly #hop: number;
  /** Level of the strongest line at the latest looks, and which bin it was. */
  readonly #levels: number[] = [];
  #bin = -1;
  #stayed = 0;
  #fill = 0;

  constructor(kernels: KernelModule, sampleRateHz: number) {
    const size = 2 ** Math.round(Math.log2(FRAME_SECONDS * sampleRateHz));
    this.#fft = new RealFft(kernels, size);
    this.#window = hannWindow(size);
    this.#history = new Float32Array(size);
    this.#binHz = sampleRateHz / size;
    this.#hop = size / 2;
    // A sine of full scale under a Hann window has |X| = size / 4.
    this.#scale = (4 / size) ** 2;
  }

  reset(): void {
    this.#levels.length = 0;
    this.#bin = -1;
    this.#stayed = 0;
    this.#history.fill(0);
    this.#fill = 0;
  }

  /** @returns the frequency of a loop, Hz, when one is noticed; null otherwise */
  process(sound: Float32Array, frames = sound.length): number | null {
    let found: number | null = null;
    for (let n = 0; n < frames;) {
      const count = Math.min(frames - n, this.#hop - this.#fill);
      this.#history.set(sound.subarray(n, n + count), this.#history.length - this.#hop + this.#fill);
      this.#fill += count;
      n += count;
      if (this.#fill < this.#hop) continue;
      this.#fill = 0;
      found = this.#look() ?? found;
      this.#history.copyWithin(0, this.#hop);
    }
    return found;
  }

  #look(): number | null {
    const { frame, re, im } = this.#fft;
    for (let n = 0; n < frame.length; n++) frame[n] = this.#history[n]! * this.#window[n]!;
    this.#fft.forward();
    const power = (k: number): number => (k < 0 || k >= re.length ? 0 : re[k]! ** 2 + im[k]! ** 2);
    const from = Math.ceil(LOWEST_HZ / this.#binHz);
    let top = from;
    for (let k = from; k < re.length; k++) if (power(k) > power(top)) top = k;
    const level = powerToDb(power(top) * this.#scale + 1e-14);
    const moved = Math.abs(top - this.#bin) > 1;
    this.#bin = top;
    this.#stayed = !moved && level > LOUD_DBFS && this.#share(power, top) > MOST_SHARE ? this.#stayed + 1 : 0;
    if (moved || level < LEAST_DBFS || !this.#isLine(power, top)) this.#levels.length = 0;
    else {
      this.#levels.push(level);
      if (this.#levels.length > LOOKS) this.#levels.shift();
    }
    return this.#rises() || this.#stayed >= STAYS_LOOKS ? top * this.#binHz : null;
  }

  #share(power: (k: number) => number, top: number): number {
    let line = 0;
    let all = 1e-20;
    for (let k = 0; k < this.#fft.re.length; k++) {
      all += power(k);
      if (Math.abs(k - top) < MAIN_LOBE_BINS) line += power(k);
    }
    return line / all;
  }

  #isLine(power: (k: number) => number, top: number): boolean {
    const line = powerToDb(power(top) + 1e-20);
    let near = 0;
    for (let d = MAIN_LOBE_BINS; d <= NEAR_BINS; d++) near = Math.max(near, power(top - d), power(top + d));
    if (line - powerToDb(near + 1e-20) < OVER_NEAR_DB) return false;
    // A voice has harmonics above its strongest one, or lower ones below it.
    const harmonic = (times: number): number => {
      const at = Math.round(top * times);
      return Math.max(power(at - 1), power(at), power(at + 1));
    };
    const most = Math.max(harmonic(2), harmonic(3), harmonic(0.5), harmonic(1.5));
    return line - powerToDb(most + 1e-20) >= OVER_HARMONICS_DB;
  }

  #rises(): boolean {
    const levels = this.#levels;
    if (levels.length < LOOKS || levels[LOOKS - 1]! - levels[0]! < RISE_DB) return false;
    return levels.every((level, i) => i === 0 || level > levels[i - 1]! - FALL_DB);
  }
}
