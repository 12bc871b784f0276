import { copyFrames } from '../../copy-frames.js';
import { DspError } from '../../errors.js';
import { GainTrunk } from '../../kernels/gain-trunk.js';
import { NOISE_MODES, NoiseReducer } from '../../kernels/noise-reducer.js';
import { SecondOpinion } from './second-opinion.js';
import { SPEECH_LOOK_AHEAD } from '../../noise/speech-model.js';
import type { Memory } from '../../memory.js';
import type { ChannelNoise, NoisePlace, NoiseProfile } from '../../noise/noise-profile.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { analysisWindow, frameSizeFor, HOPS_PER_FRAME } from '../../spectrum/window.js';
import { dbToPower } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import type { NoiseReductionSpecs, NoiseReductionValues } from './settings.js';
import { floorGains, tonesDb } from './reduction-curve.js';
import { effectiveValues, isProfiled } from './settings.js';

/** Weight of the past in the decision-directed estimate (Ephraim & Malah 1984, section V); 0.94 with the model beside it. */
const DECISION_MEMORY = 0.94;
/** The a-priori SNR may fall to -25 dB (Cappé 1994, section IV), or this far below a deeper reduction. */
const LEAST_PRIOR_DB = 25;
const PRIOR_MARGIN_DB = 6;
/** Widest smoothing that the kernel has room for, to either side. */
const MAX_REACH_BINS = 28;
/** A bin without any noise in the profile (digital silence) is taken to have this much, as power. */
const LEAST_NOISE_POWER = 1e-14;
/** A profile that follows: half-way in this time, and this far at most. */
const FOLLOW_SECONDS = 0.8;
const FOLLOW_EVERY = 4;
const FOLLOW_MOST_POWER = 16;
/** How much the word of the second network counts: ξ = (1 - w) g² P/N + w |R|²/N. */
const OPINION_SHARE = 0.25;
/** Tracked noise is held against what it was over this time, and is learnt in full at first. */
const TRACK_SECONDS = 1;
const LEARN_SECONDS = 0.35;

/**
 * Noise reduction on a short-time Fourier transform with 75 % overlap and square-root Hann windows (perfect
 * reconstruction at gain 1). One kernel a channel, one profile a channel.
 * @throws {DspError} `noise-missing` without a profile where the mode needs one, `profile-mismatch` when it has another
 * frame size or other channels.
 */
export class NoiseReductionProcessor implements TreatmentProcessor<NoiseReductionSpecs> {
  readonly latencyFrames: number;
  readonly #lanes: Lane[];
  readonly #size: number;
  readonly #hop: number;
  readonly #sampleRateHz: number;
  readonly #mode: string;
  readonly #network: string;
  /** Of the gain network; null where it is not used. */
  readonly #trunk: GainTrunk | null;
  /** The second network, where it is asked. */
  readonly #opinion: SecondOpinion | null;
  /** After how many frames of a hop each part of the trunk's work is done, and which is next. */
  readonly #workFrames: number;
  #work = 0;
  /** A hop was heard. */
  #heard = false;
  #fill = 0;
  #minPriorSnr = 0;
  #threshold = 1;
  #reachBins = 0;
  #openingShare = 1;
  #closingShare = 1;
  #values: NoiseReductionValues;
  /** Where other noises are known, and where this is: only of a profile that has places. */
  readonly #profile: NoiseProfile | undefined;
  #place: NoisePlace | null = null;
  #at = 0;
  readonly locate?: (frame: number) => void;

  constructor(context: ProcessorContext, values: NoiseReductionValues) {
    this.#mode = values['mode'] as string;
    this.#network = values['network'] as string;
    const modelled = this.#network !== 'light';
    const profiled = isProfiled(values);
    const profile = profiled ? context.noiseProfile : undefined;
    this.#profile = profile;
    this.#values = values;
    this.#at = context.startFrame ?? 0;
    if (profile?.places) this.locate = (frame) => void (this.#at = frame);
    const size = frameSizeFor(context.sampleRateHz);
    if (profiled && !profile)
      throw new DspError(
        'noise-missing',
        'Noise reduction needs a noise profile: mark a passage with noise alone and take it, or let the noise be tracked.',
      );
    if (profile && (profile.frameSize !== size || profile.channels.length !== context.channels))
      throw new DspError(
        'profile-mismatch',
        `The noise profile has ${profile.channels.length} channel(s) and frames of ${profile.frameSize}; this sound has ${context.channels} and ${size}. Take the profile again.`,
      );
    this.#sampleRateHz = context.sampleRateHz;
    this.#size = size;
    this.#hop = size / HOPS_PER_FRAME;
    this.#opinion =
      this.#network === 'deep' ? new SecondOpinion(context.sampleRateHz, context.channels, size, SPEECH_LOOK_AHEAD * this.#hop) : null;
    this.latencyFrames = size + SPEECH_LOOK_AHEAD * this.#hop + (this.#opinion?.delayFrames ?? 0);
    this.#trunk = modelled ? new GainTrunk(context.kernels, context.channels) : null;
    this.#workFrames = Math.floor(this.#hop / (2 * context.channels + 1));
    const window = analysisWindow(size);
    this.#lanes = Array.from({ length: context.channels }, (_, c) => {
      const kernel = new NoiseReducer(context.kernels, size, context.sampleRateHz / size, modelled);
      kernel.window.set(window);
      if (this.#opinion) kernel.opinionShare.value = OPINION_SHARE;
      kernel.profilePower.fill(LEAST_NOISE_POWER);
      const tones = new Float32Array(size / 2 + 1);
      if (profile) know({ kernel, tones }, profile.channels[c]!, modelled);
      return { kernel, tones };
    });
    this.setParameters(values);
    this.reset();
  }

  setParameters(given: NoiseReductionValues): boolean {
    if (given['mode'] !== this.#mode || given['network'] !== this.#network) return false;
    this.#values = given;
    const values = effectiveValues(given);
    const framesPerMs = this.#sampleRateHz / 1000 / this.#hop;
    const binHz = this.#sampleRateHz / this.#size;
    const share = (ms: number): number => (ms === 0 ? 1 : 1 - Math.exp(-1 / (ms * framesPerMs)));
    this.#minPriorSnr = dbToPower(-Math.max(LEAST_PRIOR_DB, values.reductionDb + PRIOR_MARGIN_DB));
    this.#reachBins = Math.min(MAX_REACH_BINS, Math.round(values.smoothingHz / 2 / binHz));
    this.#openingShare = share(values.openingMs);
    this.#closingShare = share(values.closingMs);
    this.#threshold = dbToPower(values.thresholdDb);
    for (const { kernel, tones } of this.#lanes) kernel.floors.set(floorGains(values, binHz, tones));
    return true;
  }

  /** What is known of the frame weighed last, of a channel: for what is measured beside (./price.ts). */
  insight(channel: number): NoiseInsight {
    return this.#lanes[channel]!.kernel;
  }

  /** How far tones of the profile stand over what is around them, dB by bin, of a channel. */
  tones(channel: number): Float32Array {
    return this.#lanes[channel]!.tones;
  }

  reset(): void {
    this.#fill = 0;
    this.#work = 0;
    this.#heard = false;
    this.#trunk?.reset();
    this.#opinion?.reset();
    this.#goTo(null);
    for (const { kernel } of this.#lanes) kernel.reset();
  }

  remember(memory: Memory): void {
    const places = this.#profile?.places;
    if (places) this.#goTo(places[memory.number(this.#place ? places.indexOf(this.#place) : -1)] ?? null);
    const mode = this.#mode === 'fixed' || this.#mode === 'follow' ? NOISE_MODES[this.#mode] : NOISE_MODES.tracked;
    for (const { kernel } of this.#lanes) kernel.remember(memory, mode);
    if (this.#trunk) memory.floats(this.#trunk.state);
    this.#opinion?.remember(memory);
  }

  /** The noise of the place that is weighed next; from one to the other within a hop. */
  #knowPlace(): void {
    const places = this.#profile?.places;
    if (!places) return;
    // In the middle of the frame that is weighed.
    const frame = this.#at - this.#size / 2 - SPEECH_LOOK_AHEAD * this.#hop;
    this.#goTo(places.find(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame) ?? null);
  }

  #goTo(place: NoisePlace | null): void {
    if (place === this.#place) return;
    this.#place = place;
    const channels = place?.channels ?? this.#profile!.channels;
    this.#lanes.forEach((lane, c) => {
      know(lane, channels[c]!, this.#network !== 'light');
      lane.kernel.knowAnew();
    });
    this.setParameters(this.#values);
  }

  goOnAt(frame: number): void {
    this.#opinion?.goOnAt(frame);
  }

  /**
   * The trunk of the network hears a hop while the next one is gathered: a part of it at a time, so that no turn of the audio clock
   * carries all of it. What it says is needed when the hop is full.
   */
  #workOn(): void {
    const trunk = this.#trunk!;
    const channel = this.#work >> 1;
    const { kernel } = this.#lanes[channel]!;
    if (this.#work++ % 2 === 0) {
      trunk.input.set(kernel.bandFeatures);
      trunk.first(channel);
    } else {
      trunk.second(channel);
      kernel.bandMaps.set(trunk.maps);
    }
  }

  #reduce({ kernel }: Lane): void {
    const hopSeconds = this.#hop / this.#sampleRateHz;
    const [mode, speed, most] =
      this.#mode === 'fixed'
        ? [NOISE_MODES.fixed, 0, 0]
        : this.#mode === 'follow'
          ? [NOISE_MODES.follow, 1 - 2 ** ((-(this.#size <= 2048 ? FOLLOW_EVERY : 1) * hopSeconds) / FOLLOW_SECONDS), FOLLOW_MOST_POWER]
          : [NOISE_MODES.tracked, hopSeconds / TRACK_SECONDS, Math.round(LEARN_SECONDS / hopSeconds)];
    kernel.reduceHop(
      mode,
      DECISION_MEMORY,
      this.#minPriorSnr,
      this.#threshold,
      this.#reachBins,
      this.#openingShare,
      this.#closingShare,
      speed,
      most,
    );
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const hop = this.#hop;
    let n = 0;
    while (n < frames) {
      const fill = this.#fill;
      const parts = this.#trunk ? 2 * this.#lanes.length : 0;
      const next = this.#heard && this.#work < parts ? (this.#work + 1) * this.#workFrames : hop;
      const count = Math.min(frames - n, next - fill);
      for (let c = 0; c < this.#lanes.length; c++) {
        const { history, overlap } = this.#lanes[c]!.kernel;
        if (this.#opinion) this.#opinion.push(c, input[c]!, n, count, history, history.length - hop + fill);
        else copyFrames(input[c]!, n, history, history.length - hop + fill, count);
        copyFrames(overlap, fill, output[c]!, n, count);
      }
      this.#fill += count;
      this.#at += count;
      n += count;
      if (this.#fill < hop) {
        if (this.#fill === next) this.#workOn();
        continue;
      }
      this.#fill = 0;
      this.#work = 0;
      this.#heard = true;
      this.#knowPlace();
      for (let c = 0; c < this.#lanes.length; c++) {
        this.#opinion?.say(c, this.#lanes[c]!.kernel.opinionFrame);
        this.#reduce(this.#lanes[c]!);
      }
    }
  }
}

/** Lets a lane know a noise. */
function know({ kernel, tones }: Lane, noise: ChannelNoise, modelled: boolean): void {
  for (let k = 0; k < tones.length; k++) kernel.profilePower[k] = Math.max(noise.meanPower[k]!, LEAST_NOISE_POWER);
  // The light choice goes on as it did when it was the only one.
  if (modelled)
    for (let k = 0; k < tones.length; k++) kernel.typicalPower[k] = Math.max(dbToPower(noise.meanLevelDb[k]!), LEAST_NOISE_POWER);
  tones.set(tonesDb(kernel.profilePower));
}

/** By bin: the gain applied, the share of speech, the power of the frame, and of the noise in it. */
export type NoiseInsight = Pick<NoiseReducer, 'gain' | 'share' | 'weighedPower' | 'noisePower'>;

interface Lane {
  readonly kernel: NoiseReducer;
  /** How far tones of the profile stand over what is around them, dB. */
  readonly tones: Float32Array;
}
