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
      pending: new Float32Array(this.#hop),
      history: new Float32Array(size),
      overlap: new Float32Array(size),
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
    this.#reachBins = Math.round(values.smoothingHz / 2 / (this.#sampleRateHz / this.latencyFrames));
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
      lane.history.fill(0);
      lane.overlap.fill(0);
      lane.kernel.speechPower.fill(0);
      lane.kernel.gain.fill(this.#floorGain);
    }
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    let n = 0;
    while (n < frames) {
      const count = Math.min(frames - n, this.#hop - this.#fill);
      for (let c = 0; c < this.#lanes.length; c++) {
        const { pending, overlap } = this.#lanes[c]!;
        const from = input[c]!;
        const to = output[c]!;
        for (let i = 0; i < count; i++) {
          pending[this.#fill + i] = from[n + i]!;
          to[n + i] = overlap[this.#fill + i]!;
        }
      }
      this.#fill += count;
      n += count;
      if (this.#fill === this.#hop) {
        this.#fill = 0;
        for (const lane of this.#lanes) this.#reduce(lane);
      }
    }
  }

  #reduce({ kernel, pending, history, overlap }: Lane): void {
    const hop = this.#hop;
    history.copyWithin(0, hop);
    history.set(pending, history.length - hop);
    kernel.frame.set(history);
    kernel.reduceFrame(DECISION_MEMORY, this.#minPriorSnr, this.#floorGain, this.#reachBins, this.#openingShare, this.#closingShare);
    overlap.copyWithin(0, hop);
    overlap.fill(0, overlap.length - hop);
    const frame = kernel.frame;
    for (let i = 0; i < frame.length; i++) overlap[i]! += frame[i]!;
  }
}

interface Lane {
  readonly kernel: NoiseReducer;
  readonly noise: Float32Array;
  readonly pending: Float32Array;
  readonly history: Float32Array;
  /** Sum of the windowed frames; its first hop is finished and goes out while the next hop comes in. */
  readonly overlap: Float32Array;
}
