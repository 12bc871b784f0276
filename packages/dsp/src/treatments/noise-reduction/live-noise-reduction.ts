import { DspError } from '../../errors.js';
import { halfExponentialGain } from '../../kernels/exponential-integral.js';
import type { RealFft } from '../../kernels/real-fft.js';
import { LowDelayTransform } from '../../live/low-delay-transform.js';
import type { NoiseProfile } from '../../noise/noise-profile.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { analysisWindow } from '../../spectrum/window.js';
import { dbToPower, powerToDb } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import { LiveNoise } from './live-noise.js';
import { SpeechLikely } from './speech-likely.js';
import { floorGains, tonesDb } from './reduction-curve.js';
import { effectiveValues, isProfiled, type NoiseReductionSpecs, type NoiseReductionValues } from './settings.js';

/** Weight of the past in the decision-directed estimate (Ephraim & Malah 1984, section V: 0.98 at hops of 8 ms), over so long. */
const DECISION_SECONDS = 0.04;
const LEAST_PRIOR_DB = 25;
const PRIOR_MARGIN_DB = 6;
const LEAST_NOISE_POWER = 1e-14;

interface Lane {
  readonly noise: LiveNoise;
  readonly floors: Float32Array;
  readonly tones: Float32Array;
  /** Power of the speech in the frame before, and the gains that were applied. */
  readonly speech: Float32Array;
  readonly gain: Float32Array;
  readonly likely: SpeechLikely;
}

/**
 * The live form of noise reduction: late by 10.7 ms instead of 64, without the network, which hears ahead. Decision-directed a-priori
 * SNR (Ephraim & Malah 1984, eq. 51), log-MMSE gain (1985, eq. 20) lowered where there is hardly speech (Cohen 2002, eq. 8 and 11).
 * @throws {DspError} `noise-missing`, `profile-mismatch` as the treatment itself.
 */
export class LiveNoiseReduction implements TreatmentProcessor<NoiseReductionSpecs> {
  readonly latencyFrames: number;
  readonly #transform: LowDelayTransform;
  readonly #lanes: readonly Lane[];
  readonly #mode: string;
  readonly #binHz: number;
  readonly #hopSeconds: number;
  readonly #memory: number;
  readonly #power: Float32Array;
  readonly #raw: Float32Array;
  readonly #priors: Float32Array;
  readonly #sums: Float64Array;
  readonly #weigh = (fft: RealFft, channel: number): void => this.#reduce(fft, this.#lanes[channel]!);
  #nowDb = 0;
  #minPriorSnr = 0;
  #threshold = 1;
  #reachBins = 0;
  #openingShare = 1;
  #closingShare = 1;

  constructor({ kernels, sampleRateHz, channels, noiseProfile }: ProcessorContext, values: NoiseReductionValues) {
    const transform = new LowDelayTransform(kernels, sampleRateHz, channels);
    this.#transform = transform;
    this.latencyFrames = transform.latencyFrames;
    this.#mode = values['mode'] as string;
    this.#binHz = sampleRateHz / transform.size;
    this.#hopSeconds = transform.hop / sampleRateHz;
    this.#memory = Math.exp(-this.#hopSeconds / DECISION_SECONDS);
    const { bins } = transform;
    this.#power = new Float32Array(bins);
    this.#raw = new Float32Array(bins);
    this.#priors = new Float32Array(bins);
    this.#sums = new Float64Array(bins + 1);
    const profile = isProfiled(values) ? requireProfile(noiseProfile, transform.size, channels) : null;
    this.#lanes = Array.from({ length: channels }, (_, c) => {
      const known = profile && throughWindow(profile.channels[c]!.meanPower, transform.analysis);
      return {
        noise: new LiveNoise(bins, this.#hopSeconds, known),
        floors: new Float32Array(bins),
        tones: known ? tonesDb(known) : new Float32Array(bins),
        speech: new Float32Array(bins),
        gain: new Float32Array(bins),
        likely: new SpeechLikely(bins, this.#binHz, this.#hopSeconds),
      };
    });
    this.setParameters(values);
    this.reset();
  }

  setParameters(given: NoiseReductionValues): boolean {
    if (given['mode'] !== this.#mode) return false;
    const values = effectiveValues(given);
    const share = (ms: number): number => (ms === 0 ? 1 : 1 - Math.exp((-1000 * this.#hopSeconds) / ms));
    this.#minPriorSnr = dbToPower(-Math.max(LEAST_PRIOR_DB, values.reductionDb + PRIOR_MARGIN_DB));
    this.#reachBins = Math.round(values.smoothingHz / 2 / this.#binHz);
    this.#openingShare = share(values.openingMs);
    this.#closingShare = share(values.closingMs);
    this.#threshold = dbToPower(values.thresholdDb);
    for (const { floors, tones } of this.#lanes) floors.set(floorGains(values, this.#binHz, tones));
    return true;
  }

  reset(): void {
    this.#transform.reset();
    for (const { noise, floors, speech, gain, likely } of this.#lanes) {
      noise.reset();
      likely.reset();
      speech.fill(0);
      gain.set(floors);
    }
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    this.#transform.process(input, output, frames, this.#weigh);
  }

  #reduce({ re, im }: RealFft, lane: Lane): void {
    const power = this.#power;
    for (let k = 0; k < power.length; k++) power[k] = re[k]! * re[k]! + im[k]! * im[k]!;
    lane.noise.hear(power, this.#mode !== 'fixed');
    this.#gains(lane);
    this.#evenOut();
    const { gain, floors } = lane;
    const raw = this.#raw;
    let given = 1e-20;
    let left = 1e-20;
    for (let k = 0; k < power.length; k++) {
      const wanted = Math.max(floors[k]!, raw[k]!);
      const now = gain[k]! + (wanted > gain[k]! ? this.#openingShare : this.#closingShare) * (wanted - gain[k]!);
      gain[k] = now;
      given += power[k]!;
      left += now * now * power[k]!;
      re[k]! *= now;
      im[k]! *= now;
    }
    this.#nowDb = powerToDb(left / given);
  }

  get nowDb(): number {
    return this.#nowDb;
  }

  #gains({ noise, speech, floors, likely }: Lane): void {
    const power = this.#power;
    const raw = this.#raw;
    const known = noise.power;
    const keep = this.#memory;
    const least = this.#minPriorSnr;
    const priors = this.#priors;
    for (let k = 0; k < power.length; k++) {
      const inverse = 1 / (this.#threshold * known[k]! + LEAST_NOISE_POWER);
      const post = power[k]! * inverse;
      priors[k] = Math.max(least, keep * speech[k]! * inverse + (1 - keep) * Math.max(0, post - 1));
    }
    likely.hear(priors);
    for (let k = 0; k < power.length; k++) {
      const p = power[k]!;
      const post = p / (this.#threshold * known[k]! + LEAST_NOISE_POWER);
      const prior = priors[k]!;
      const wiener = prior / (1 + prior);
      const v = wiener * post;
      const g = Math.min(1, wiener * halfExponentialGain(v));
      speech[k] = g * g * p;
      const absent = likely.absent[k]!;
      const present = 1 / (1 + (absent / (1 - absent)) * (1 + prior) * Math.exp(-v));
      const least = floors[k]!;
      raw[k] = least + present * (Math.max(least, g) - least);
    }
  }

  /** Mean over the reach to either side. */
  #evenOut(): void {
    const raw = this.#raw;
    const sums = this.#sums;
    const reach = this.#reachBins;
    if (reach === 0) return;
    const bins = raw.length;
    for (let k = 0; k < bins; k++) sums[k + 1] = sums[k]! + raw[k]!;
    for (let k = 0; k < bins; k++) {
      const from = k < reach ? 0 : k - reach;
      const to = k + reach + 1 > bins ? bins : k + reach + 1;
      raw[k] = (sums[to]! - sums[from]!) / (to - from);
    }
  }
}

function requireProfile(profile: NoiseProfile | undefined, frameSize: number, channels: number): NoiseProfile {
  if (!profile)
    throw new DspError('noise-missing', 'Noise reduction needs a noise profile: listen to the silence first, or let the noise be tracked.');
  if (profile.frameSize !== frameSize || profile.channels.length !== channels)
    throw new DspError(
      'profile-mismatch',
      `The noise profile has ${profile.channels.length} channel(s) and frames of ${profile.frameSize}; this sound has ${channels} and ${frameSize}. Take the profile again.`,
    );
  return profile;
}

/** The powers that noise of this profile has through another window of the same length. */
function throughWindow(meanPower: Float32Array, window: Float32Array): Float32Array {
  const energy = (of: Float32Array): number => of.reduce((sum, w) => sum + w * w, 0);
  const ratio = energy(window) / energy(analysisWindow(window.length));
  return meanPower.map((power) => Math.max(LEAST_NOISE_POWER, power * ratio));
}
