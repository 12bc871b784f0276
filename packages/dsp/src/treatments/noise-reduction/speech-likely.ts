/** How long the a-priori SNR is evened out before it is judged. */
const SMOOTH_SECONDS = 0.02;
/** A bin is judged with what is so near, and with what is less near. */
const LOCAL_HZ = 50;
const GLOBAL_HZ = 350;
/** Evened out, an SNR of the one or less is no speech, of the other or more it is (Cohen 2002, table I: -10 and -5 dB). */
const LEAST_DB = -10;
const MOST_DB = -5;
const MOST_ABSENT = 0.95;

/** How likely no speech is in a bin, from what its surroundings and the whole frame say (Cohen 2002, eq. 23 to 29). */
export class SpeechLikely {
  /** A-priori probability of absence, up to 0.95. */
  readonly absent: Float32Array;
  readonly #smooth: Float32Array;
  readonly #sums: Float64Array;
  readonly #share: number;
  readonly #local: number;
  readonly #global: number;

  constructor(bins: number, binHz: number, hopSeconds: number) {
    this.absent = new Float32Array(bins);
    this.#smooth = new Float32Array(bins);
    this.#sums = new Float64Array(bins + 1);
    this.#share = 1 - Math.exp(-hopSeconds / SMOOTH_SECONDS);
    this.#local = Math.max(1, Math.round(LOCAL_HZ / binHz));
    this.#global = Math.max(1, Math.round(GLOBAL_HZ / binHz));
    this.reset();
  }

  reset(): void {
    this.absent.fill(MOST_ABSENT);
    this.#smooth.fill(0);
  }

  /** @param priors a-priori SNR by bin, as power. */
  hear(priors: Float32Array): void {
    const smooth = this.#smooth;
    const sums = this.#sums;
    const bins = priors.length;
    for (let k = 0; k < bins; k++) {
      smooth[k]! += this.#share * (priors[k]! - smooth[k]!);
      sums[k + 1] = sums[k]! + smooth[k]!;
    }
    const frame = likelihood(sums[bins]! / bins);
    for (let k = 0; k < bins; k++)
      this.absent[k] = Math.min(
        MOST_ABSENT,
        1 - this.#mean(k, this.#local, bins) * this.#mean(k, this.#global, bins) * Math.max(0.2, frame),
      );
  }

  #mean(k: number, reach: number, bins: number): number {
    const from = k < reach ? 0 : k - reach;
    const to = k + reach + 1 > bins ? bins : k + reach + 1;
    return likelihood((this.#sums[to]! - this.#sums[from]!) / (to - from));
  }
}

const LEAST = 10 ** (LEAST_DB / 10);
const MOST = 10 ** (MOST_DB / 10);

const likelihood = (snr: number): number => (snr <= LEAST ? 0 : snr >= MOST ? 1 : Math.log(snr / LEAST) / Math.log(MOST / LEAST));
