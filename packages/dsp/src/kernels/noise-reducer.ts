import { GAIN_BANDS, GAIN_SINGLE, loadGainBands } from '../noise/gain-network.js';
import { exponentialIntegral } from './exponential-integral.js';
import { SPEECH_BANDS, speechBandBins } from '../noise/speech-bands.js';
import { loadSpeechModel, SPEECH_HIDDEN, SPEECH_LOOK_AHEAD } from '../noise/speech-model.js';
import type { Memory } from '../memory.js';
import { KernelInstance, type KernelModule } from './instance.js';
import { requireFftSize } from './real-fft.js';

const TABLE_LOW = 2 ** -20;
const STEPS_PER_OCTAVE = 128;
const TABLE_LENGTH = 25 * STEPS_PER_OCTAVE + 1;

/** exp(E1(v) / 2) at v = 2^octave (1 + step / 128), from 2^-20 to 2^5: what the kernel interpolates. */
function gainTable(): Float32Array {
  return Float32Array.from({ length: TABLE_LENGTH }, (_, index) => {
    const octave = Math.floor(index / STEPS_PER_OCTAVE);
    const v = TABLE_LOW * 2 ** octave * (1 + (index % STEPS_PER_OCTAVE) / STEPS_PER_OCTAVE);
    return Math.exp(exponentialIntegral(v) / 2);
  });
}

let sharedTable: Float32Array | undefined;

/** How the noise is known: the profile as it stands, the profile moved with the level, or tracked all the time. */
export const NOISE_MODES = { fixed: 0, follow: 1, tracked: 2 } as const;

/** As the kernel holds what it learns: the noise now, how far regions of a profile were moved, and what tracking goes by. */
const LEARNT = ['noisePower', 'noiseRegionGain', 'noiseSlow', 'noisePresence', 'noiseSmooth', 'noiseLeastNow', 'noiseLeastBefore'];
const NOISE_REGIONS = 22;

/** The noise-reduction kernel for one channel: a hop into `history`, `reduceHop`, a hop out of `overlap`. */
export class NoiseReducer {
  readonly window: Float32Array;
  /** The last `size` samples; write the newest hop at its end, then call reduceHop. */
  readonly history: Float32Array;
  /** Its first hop is finished after each reduceHop. */
  readonly overlap: Float32Array;
  /** Power of the noise per bin as it is taken to be now; size / 2 + 1 values. */
  readonly noisePower: Float32Array;
  /** What a profile says; `reset` starts from it. */
  readonly profilePower: Float32Array;
  /** Mean level of the frames of a profile, as power: what one that follows is held against. All zeros: its mean power. */
  readonly typicalPower: Float32Array;
  /** Lowest gain of each bin. */
  readonly floors: Float32Array;
  /** With the gain network: what its trunk is to hear of the newest frame, and what it said of the one before. */
  readonly bandFeatures: Float32Array;
  readonly bandMaps: Float32Array;
  /** Gains of bands and bins as the network says. */
  readonly binGain: Float32Array;
  /** Share of speech in each bin of the frame weighed last. */
  readonly share: Float32Array;
  /** Power of the frame weighed last. */
  readonly weighedPower: Float32Array;
  readonly speechPower: Float32Array;
  readonly gain: Float32Array;
  /** What a second network takes for speech in the frame that is weighed next; heard where `opinionShare` is over 0. */
  readonly opinionFrame: Float32Array;
  readonly opinionShare: { value: number };
  readonly binRe: Float32Array;
  readonly binIm: Float32Array;
  readonly reset: () => void;
  /** What the noise is taken to be, and how it was learnt (kernels/noise-estimate.ts). */
  readonly #learnt: readonly Float32Array[];
  readonly #heardFrames: { value: number };
  readonly #speechState: Float32Array;
  readonly #level: readonly { value: number }[];
  /** Weighs the spectrum in binRe and binIm; shares are of the step towards the new gain that one frame takes. */
  readonly weighFrame: (
    decisionMemory: number,
    minPriorSnr: number,
    threshold: number,
    reachBins: number,
    openingShare: number,
    closingShare: number,
  ) => void;
  /** See kernels/noise-reduction.ts for `speed` and `most`, which depend on the mode. */
  readonly reduceHop: (
    mode: number,
    decisionMemory: number,
    minPriorSnr: number,
    threshold: number,
    reachBins: number,
    openingShare: number,
    closingShare: number,
    speed: number,
    most: number,
  ) => void;

  /**
   * @param binHz distance of two bins, for the bands of the speech model.
   * @param modelled with the gain network.
   */
  constructor(module: KernelModule, size: number, binHz: number, modelled: boolean) {
    requireFftSize(size);
    const kernel = new KernelInstance(
      module,
      'noiseReductionSetUp',
      size,
      SPEECH_BANDS,
      SPEECH_HIDDEN,
      SPEECH_LOOK_AHEAD,
      modelled ? GAIN_BANDS : 0,
      GAIN_SINGLE,
    );
    const bins = size / 2 + 1;
    this.window = kernel.floats('window', size);
    this.history = kernel.floats('history', size);
    this.overlap = kernel.floats('overlap', size);
    this.noisePower = kernel.floats('noisePower', bins);
    this.profilePower = kernel.floats('profilePower', bins);
    this.typicalPower = kernel.floats('typicalPower', bins);
    this.floors = kernel.floats('floors', bins);
    this.bandFeatures = kernel.floats('bandFeatures', modelled ? 2 * GAIN_BANDS : 0);
    this.bandMaps = kernel.floats('bandMaps', modelled ? 3 * GAIN_BANDS : 0);
    this.binGain = kernel.floats('binGain', modelled ? bins : 0);
    if (modelled) loadGainBands(kernel, module);
    this.share = kernel.floats('share', bins);
    this.weighedPower = kernel.floats('weighedPower', bins);
    this.speechPower = kernel.floats('speechPower', bins);
    this.gain = kernel.floats('gain', bins);
    this.opinionFrame = kernel.floats('opinionFrame', size);
    this.opinionShare = kernel.number('opinionShare');
    this.binRe = kernel.floats('binRe', bins);
    this.binIm = kernel.floats('binIm', bins);
    this.#learnt = LEARNT.map((name) => kernel.floats(name, name === 'noiseRegionGain' ? NOISE_REGIONS : bins));
    this.#heardFrames = kernel.number('noiseFrames');
    this.#speechState = kernel.floats('modelState', SPEECH_HIDDEN);
    this.#level = modelled ? [kernel.number('gainLevel'), kernel.number('gainBegun')] : [];
    this.reset = kernel.call('noiseReductionReset');
    this.weighFrame = kernel.call('weighFrame');
    this.reduceHop = kernel.call('reduceHop');
    kernel.floats('table', TABLE_LENGTH).set((sharedTable ??= gainTable()));
    // A band must lie within the spectrum: of a recording at 8 kHz the upper ones have one bin each at its end.
    kernel.ints('bandStart', SPEECH_BANDS + 1).set(speechBandBins(binHz).map((bin, b) => Math.min(bin, bins - 1 - SPEECH_BANDS + b)));
    loadSpeechModel(kernel, module);
  }

  /** Another noise is known from now on, as it stands: nothing of how the one before was followed. */
  knowAnew(): void {
    const [noise, regions] = this.#learnt as [Float32Array, Float32Array];
    noise.set(this.profilePower);
    regions.fill(1);
  }

  /** What is remembered for long, as the mode needs it. */
  remember(memory: Memory, mode: number): void {
    memory.floats(this.#speechState);
    memory.floats(this.gain);
    memory.floats(this.bandMaps);
    for (const cell of this.#level) memory.cell(cell);
    if (mode === NOISE_MODES.fixed) return;
    const [noise, regions] = this.#learnt as [Float32Array, Float32Array];
    memory.floats(noise);
    if (mode === NOISE_MODES.follow) return memory.floats(regions);
    memory.cell(this.#heardFrames);
    for (const list of this.#learnt.slice(2)) memory.floats(list);
  }
}
