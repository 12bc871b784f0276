import { dbToPower } from '../../units.js';

/** Regions by which a profile is moved with the level: a third of the bins are in the lowest few. */
const REGIONS = 22;
/** Smoothing of the noise that is tracked (Gerkmann & Hendriks 2012, section IV: 0.8 at hops of 16 ms), and of the speech presence. */
const TRACK_SECONDS = 0.07;
const PRESENCE_SECONDS = 0.15;
/** Fixed a-priori SNR where speech is, eq. 18 there: 15 dB. */
const OPTIMAL_SNR = dbToPower(15);
const MOST_PRESENCE = 0.99;
/** A profile that follows goes half-way in this time, and this far at most. */
const FOLLOW_SECONDS = 0.8;
const MOST_FOLLOWED = dbToPower(12);
/** What is tracked is learnt as the mean of so long at first. */
const LEARN_SECONDS = 0.35;

/** What the noise of one channel is taken to be, bin by bin, while it is heard. Powers are |X|² of the frames as they come. */
export class LiveNoise {
  readonly power: Float32Array;
  /** Probability of speech in the newest frame. */
  readonly presence: Float32Array;
  readonly #profile: Float32Array | null;
  readonly #smoothPresence: Float32Array;
  readonly #regionOf: Uint8Array;
  readonly #moved = new Float64Array(REGIONS).fill(1);
  readonly #heard = new Float64Array(REGIONS);
  readonly #known = new Float64Array(REGIONS);
  readonly #weight = new Float64Array(REGIONS);
  readonly #learnFrames: number;
  readonly #track: number;
  readonly #presenceShare: number;
  readonly #follow: number;
  #frames = 0;

  /** @param profile mean power by bin; null: it is tracked. */
  constructor(bins: number, hopSeconds: number, profile: Float32Array | null) {
    this.power = new Float32Array(bins);
    this.presence = new Float32Array(bins);
    this.#profile = profile;
    this.#smoothPresence = new Float32Array(bins);
    // Equal steps on a scale that is linear below and logarithmic above a fortieth of the band.
    const place = (k: number): number => Math.log(1 + (40 * k) / bins);
    this.#regionOf = Uint8Array.from({ length: bins }, (_, k) => Math.min(REGIONS - 1, Math.floor((REGIONS * place(k)) / place(bins))));
    const share = (seconds: number): number => 1 - Math.exp(-hopSeconds / seconds);
    this.#track = share(TRACK_SECONDS);
    this.#presenceShare = share(PRESENCE_SECONDS);
    this.#follow = 1 - 2 ** (-hopSeconds / FOLLOW_SECONDS);
    this.#learnFrames = Math.round(LEARN_SECONDS / hopSeconds);
    this.reset();
  }

  reset(): void {
    this.#frames = 0;
    this.#moved.fill(1);
    this.#smoothPresence.fill(0.5);
    this.presence.fill(0);
    if (this.#profile) this.power.set(this.#profile);
    else this.power.fill(0);
  }

  /** @param moves false: the profile as it stands. */
  hear(power: Float32Array, moves: boolean): void {
    this.#frames++;
    this.#judge(power);
    if (!this.#profile) this.#trackOn(power);
    else if (moves) this.#followOn(power);
  }

  /** Speech presence, Gerkmann & Hendriks 2012, eq. 18, held below one where it has been for long (eq. 23). */
  #judge(power: Float32Array): void {
    const { presence, power: noise } = this;
    const smooth = this.#smoothPresence;
    const share = this.#presenceShare;
    const exponent = OPTIMAL_SNR / (1 + OPTIMAL_SNR);
    for (let k = 0; k < power.length; k++) {
      const ratio = power[k]! / (noise[k]! + 1e-20);
      const p = ratio > 30 ? 1 : 1 / (1 + (1 + OPTIMAL_SNR) * Math.exp(-ratio * exponent));
      const mean = smooth[k]! + share * (p - smooth[k]!);
      smooth[k] = mean;
      presence[k] = mean > MOST_PRESENCE && p > MOST_PRESENCE ? MOST_PRESENCE : p;
    }
  }

  #trackOn(power: Float32Array): void {
    const { power: noise, presence } = this;
    if (this.#frames <= this.#learnFrames) {
      for (let k = 0; k < power.length; k++) noise[k]! += (power[k]! - noise[k]!) / this.#frames;
      return;
    }
    for (let k = 0; k < power.length; k++) noise[k]! += this.#track * (1 - presence[k]!) * (power[k]! - noise[k]!);
  }

  #followOn(power: Float32Array): void {
    const profile = this.#profile!;
    const { presence, power: noise } = this;
    const [heard, known, weight] = [this.#heard, this.#known, this.#weight];
    heard.fill(0);
    known.fill(0);
    weight.fill(0);
    for (let k = 0; k < power.length; k++) {
      const region = this.#regionOf[k]!;
      const quiet = 1 - presence[k]!;
      heard[region]! += (quiet * power[k]!) / (profile[k]! + 1e-20);
      known[region]! += quiet;
      weight[region]!++;
    }
    for (let r = 0; r < REGIONS; r++) {
      // With much speech in it a region says little: it waits.
      const share = this.#follow * (known[r]! / Math.max(1, weight[r]!));
      if (known[r]! < 0.5) continue;
      const now = heard[r]! / known[r]!;
      const next = this.#moved[r]! * Math.max(1e-3, now / this.#moved[r]!) ** share;
      this.#moved[r] = Math.max(1 / MOST_FOLLOWED, Math.min(MOST_FOLLOWED, next));
    }
    for (let k = 0; k < power.length; k++) noise[k] = profile[k]! * this.#moved[this.#regionOf[k]!]!;
  }
}
