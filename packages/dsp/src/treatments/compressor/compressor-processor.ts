import { copyFrames } from '../../copy-frames.js';
import { Cascade } from '../../filters/cascade.js';
import type { Memory } from '../../memory.js';
import { createBlock, MAX_BLOCK_FRAMES, type PlanarBlock, type ProcessorContext } from '../../processor.js';
import { dbToGain } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import { voiceBand } from '../listens.js';
import { downwardGainDb, upwardGainDb } from './curve.js';
import type { parameters } from './settings.js';
import { type CompressorValues } from './settings.js';

/** What is quieter counts as this quiet. */
const SILENCE_DBFS = -140;
/** Latest peaks are those of about so long: longer than a period of a low voice, shorter than a gap. */
const WHILE_MS = 40;
/** Make-up and mix glide over about so long. */
const GLIDE_MS = 8;
const NATURAL_TO_DB = 20 / Math.LN10;

/**
 * Time constant of the first of two stages, so that both together have gone 63 % of their way after `releaseMs`: the second one is
 * the attack's.
 */
export function releaseStageMs(releaseMs: number, attackMs: number): number {
  /** What is left of a step after both, at the time wished. */
  const left = (stage: number): number =>
    Math.abs(stage - attackMs) < 1e-9
      ? (1 + releaseMs / attackMs) * Math.exp(-releaseMs / attackMs)
      : (stage * Math.exp(-releaseMs / stage) - attackMs * Math.exp(-releaseMs / attackMs)) / (stage - attackMs);
  let [low, high] = [1e-3, releaseMs];
  for (let i = 0; i < 50; i++) {
    const middle = (low + high) / 2;
    if (left(middle) > Math.exp(-1)) high = middle;
    else low = middle;
  }
  return (low + high) / 2;
}

/**
 * Feed-forward compressor in the log domain: level of the louder channel, static curve, then the smooth, decoupled peak detector
 * (Giannoulis, Massberg & Reiss 2012, eq. 17, on the gain as in their figure 7c). All channels get the same gain. Nothing is late.
 */
export class Compressor implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames = 0;
  readonly #rate: number;
  readonly #keys: Float32Array[];
  readonly #filters: Cascade[] | null;
  readonly #listens: unknown;
  readonly #direction: unknown;
  readonly #glide: number;
  #values: CompressorValues;
  #attack = 0;
  #release = 0;
  readonly #fall: number;
  /** By how many dB it is to be lowered (negative: lifted), after the first stage and after both. */
  #held = 0;
  #lowered = 0;
  /** The latest peaks. */
  #while = 0;
  #makeUp = 1;
  #mix = 1;

  constructor({ sampleRateHz, channels, kernels }: ProcessorContext, values: CompressorValues) {
    this.#rate = sampleRateHz;
    this.#keys = createBlock(channels, MAX_BLOCK_FRAMES);
    this.#listens = values['listens'];
    this.#direction = values['direction'];
    this.#filters = this.#listens === 'voice' ? this.#keys.map(() => new Cascade(kernels, voiceBand(sampleRateHz))) : null;
    this.#glide = 1 - Math.exp(-1000 / (GLIDE_MS * sampleRateHz));
    this.#fall = Math.exp(-1000 / (WHILE_MS * sampleRateHz));
    this.#values = values;
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: CompressorValues): boolean {
    if (values['listens'] !== this.#listens || values['direction'] !== this.#direction) return false;
    const keep = (ms: number): number => Math.exp(-1000 / (ms * this.#rate));
    this.#values = values;
    this.#attack = keep(values.attackMs);
    this.#release = keep(releaseStageMs(values.releaseMs, values.attackMs));
    return true;
  }

  reset(): void {
    for (const filter of this.#filters ?? []) filter.reset();
    this.#held = this.#lowered = this.#while = 0;
    this.#makeUp = dbToGain(this.#values.makeUpDb);
    this.#mix = this.#values.mixPercent / 100;
  }

  /** By how much a frame with that peak is to be lowered, dB. */
  #wanted(peak: number): number {
    if (this.#direction !== 'up') return -downwardGainDb(toDb(peak), this.#values);
    this.#while = Math.max(peak, this.#fall * this.#while);
    return -upwardGainDb(toDb(peak), toDb(this.#while), this.#values);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const keys = this.#keys;
    for (let c = 0; c < keys.length; c++) {
      copyFrames(input[c]!, 0, keys[c]!, 0, frames);
      this.#filters?.[c]!.process(keys[c]!, 0, frames);
    }
    const makeUp = dbToGain(this.#values.makeUpDb);
    const mix = this.#values.mixPercent / 100;
    for (let n = 0; n < frames; n++) {
      let peak = 0;
      for (let c = 0; c < keys.length; c++) peak = Math.max(peak, Math.abs(keys[c]![n]!));
      const wanted = this.#wanted(peak);
      this.#held = Math.max(wanted, this.#release * this.#held + (1 - this.#release) * wanted);
      this.#lowered = this.#attack * this.#lowered + (1 - this.#attack) * this.#held;
      this.#makeUp += this.#glide * (makeUp - this.#makeUp);
      this.#mix += this.#glide * (mix - this.#mix);
      const gain = 1 - this.#mix + this.#mix * this.#makeUp * Math.exp(-this.#lowered / NATURAL_TO_DB);
      for (let c = 0; c < keys.length; c++) output[c]![n] = input[c]![n]! * gain;
    }
  }

  get nowDb(): number {
    return -this.#lowered;
  }

  remember(memory: Memory): void {
    this.#held = memory.number(this.#held);
    this.#lowered = memory.number(this.#lowered);
  }
}

const toDb = (peak: number): number => (peak > 1e-7 ? NATURAL_TO_DB * Math.log(peak) : SILENCE_DBFS);
