import { copyFrames } from '../../copy-frames.js';
import { DspError } from '../../errors.js';
import { NoiseReducer } from '../../kernels/noise-reducer.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { analysisWindow, frameSizeFor, HOPS_PER_FRAME } from '../../spectrum/window.js';
import { dbToGain, dbToPower } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import type { NoiseReductionSpecs, NoiseReductionValues } from './noise-reduction.js';

/** Weight of the past in the decision-directed estimate: 0.98, Ephraim & Malah 1984, section V. */
const DECISION_MEMORY = 0.98;
/** The a-priori SNR may fall this far below the reduction, so that the floor, not this limit, sets the gain of the noise. */
const PRIOR_MARGIN_DB = 15;
/** Widest smoothing that the kernel has room for, to either side. */
const MAX_REACH_BINS = 28;
/** A bin without any noise in the profile (digital silence) is taken to have this much, as power. */
const LEAST_NOISE_POWER = 1e-14;

/**
 * log-MMSE noise reduction on a short-time Fourier transform with 75 % overlap and square-root Hann windows
 * (perfect reconstruction at gain 1). One kernel a channel, one profile a channel.
 * @throws {DspError} `noise-missing` without a profile, `profile-mismatch` when it has another frame size.
 */
export class NoiseReductionProcessor implements TreatmentProcessor<NoiseReductionSpecs> {
  readonly latencyFrames: number;
  readonly #lanes: Lane[];
  readonly #hop: number;
  readonly #sampleRateHz: number;
  #fill = 0;
  #minPriorSnr = 0;
  #floorGain = 1;
  #reachBins = 0;
  #openingShare = 1;
  #closingShare = 1;

  constructor(context: ProcessorContext, values: NoiseReductionValues) {
    const profile = context.noiseProfile;
    if (!profile)
      throw new DspError('noise-missing', 'Noise reduction needs a noise profile: mark a passage with noise alone and take it.');
    const size = frameSizeFor(context.sampleRateHz);
    if (profile.frameSize !== size || profile.channels.length !== context.channels)
      throw new DspError(
        'profile-mismatch',
        `The noise profile has ${profile.channels.length} channel(s) and frames of ${profile.frameSize}; this sound has ${context.channels} and ${size}. Take the profile again.`,
      );
    this.#sampleRateHz = context.sampleRateHz;
    this.#hop = size / HOPS_PER_FRAME;
    this.latencyFrames = size;
    this.#lanes = profile.channels.map((channel) => ({
      kernel: new NoiseReducer(context.kernels, size),
      noise: channel.meanPower,
    }));
    const window = analysisWindow(size);
    for (const lane of this.#lanes) lane.kernel.window.set(window);
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: NoiseReductionValues): boolean {
    const framesPerMs = this.#sampleRateHz / 1000 / this.#hop;
    const share = (ms: number): number => (ms === 0 ? 1 : 1 - Math.exp(-1 / (ms * framesPerMs)));
    this.#floorGain = dbToGain(-values.reductionDb);
    this.#minPriorSnr = dbToPower(-values.reductionDb - PRIOR_MARGIN_DB);
    this.#reachBins = Math.min(MAX_REACH_BINS, Math.round(values.smoothingHz / 2 / (this.#sampleRateHz / this.latencyFrames)));
    this.#openingShare = share(values.openingMs);
    this.#closingShare = share(values.closingMs);
    const threshold = dbToPower(values.thresholdDb);
    for (const { kernel, noise } of this.#lanes)
      for (let k = 0; k < noise.length; k++)
        kernel.inverseNoise[k] = 1 / (Math.max(noise[k]!, LEAST_NOISE_POWER) * threshold);
    return true;
  }

  reset(): void {
    this.#fill = 0;
    for (const lane of this.#lanes) {
      lane.kernel.history.fill(0);
      lane.kernel.overlap.fill(0);
      lane.kernel.speechPower.fill(0);
      lane.kernel.gain.fill(this.#floorGain);
    }
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const hop = this.#hop;
    let n = 0;
    while (n < frames) {
      const fill = this.#fill;
      const count = Math.min(frames - n, hop - fill);
      for (let c = 0; c < this.#lanes.length; c++) {
        const { history, overlap } = this.#lanes[c]!.kernel;
        copyFrames(input[c]!, n, history, history.length - hop + fill, count);
        copyFrames(overlap, fill, output[c]!, n, count);
      }
      this.#fill += count;
      n += count;
      if (this.#fill === hop) {
        this.#fill = 0;
        for (let c = 0; c < this.#lanes.length; c++)
          this.#lanes[c]!.kernel.reduceHop(DECISION_MEMORY, this.#minPriorSnr, this.#floorGain, this.#reachBins, this.#openingShare, this.#closingShare);
      }
    }
  }
}

interface Lane {
  readonly kernel: NoiseReducer;
  readonly noise: Float32Array;
}
