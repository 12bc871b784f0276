import { copyFrames } from '../copy-frames.js';
import { Cascade } from '../filters/cascade.js';
import { highPassSection, lowPassSection, type Section } from '../filters/sections.js';
import { createBlock, MAX_BLOCK_FRAMES, type PlanarBlock, type Processor, type ProcessorContext } from '../processor.js';
import { dbToGain } from '../units.js';

/** Levels are looked at this often, and the gain moves in straight lines between. */
const STEP_FRAMES = 64;

/** Where the sound is split, which side of it is lowered, and the band of the voice's body, that decides with it. */
export interface LoweredBands {
  readonly crossoverHz: number;
  readonly side: 'below' | 'above';
  readonly body: readonly Section[];
}

/** Butterworth of the second order twice: both sides are in phase and add up flat (Linkwitz & Riley 1976). */
function split(crossoverHz: number, sampleRateHz: number): { readonly below: readonly Section[]; readonly above: readonly Section[] } {
  const [low, high] = [lowPassSection(crossoverHz, Math.SQRT1_2, sampleRateHz), highPassSection(crossoverHz, Math.SQRT1_2, sampleRateHz)];
  return { below: [low, low], above: [high, high] };
}

/**
 * Lowers what lies on one side of a crossover while something asks for it, at once: filters that turn the phase there, and are late by
 * nothing. The same on every channel.
 */
export abstract class LoweredBand implements Processor {
  readonly latencyFrames = 0;
  readonly #rate: number;
  readonly #below: readonly Cascade[];
  readonly #above: readonly Cascade[];
  readonly #bodies: readonly Cascade[];
  readonly #bands: Float32Array[];
  readonly #rests: Float32Array[];
  readonly #keys: Float32Array[];
  readonly #lowersBelow: boolean;
  #gain = 1;
  #slope = 0;
  #heard = 0;
  #band = 0;
  #body = 0;

  constructor({ kernels, channels, sampleRateHz }: ProcessorContext, { crossoverHz, side, body }: LoweredBands) {
    const filters = (sections: readonly Section[]): Cascade[] => Array.from({ length: channels }, () => new Cascade(kernels, sections));
    const { below, above } = split(crossoverHz, sampleRateHz);
    this.#rate = sampleRateHz;
    this.#below = filters(below);
    this.#above = filters(above);
    this.#bodies = filters(body);
    this.#lowersBelow = side === 'below';
    [this.#bands, this.#rests, this.#keys] = [0, 1, 2].map(() => createBlock(channels, MAX_BLOCK_FRAMES)) as [
      Float32Array[],
      Float32Array[],
      Float32Array[],
    ];
  }

  /** By how many dB the band is lowered next, from the mean squares of the band and of the body in the latest step. */
  protected abstract reductionDb(band: number, body: number): number;
  protected abstract forget(): void;

  protected moveCrossover(crossoverHz: number): void {
    const { below, above } = split(crossoverHz, this.#rate);
    for (const filter of this.#below) filter.set(below);
    for (const filter of this.#above) filter.set(above);
  }

  reset(): void {
    for (const filter of [...this.#below, ...this.#above, ...this.#bodies]) filter.reset();
    this.#gain = 1;
    this.#slope = this.#heard = this.#band = this.#body = 0;
    this.forget();
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const channels = this.#bands.length;
    const [lowered, kept] = this.#lowersBelow ? [this.#below, this.#above] : [this.#above, this.#below];
    for (let c = 0; c < channels; c++) {
      for (const to of [this.#bands[c]!, this.#rests[c]!, this.#keys[c]!]) copyFrames(input[c]!, 0, to, 0, frames);
      lowered[c]!.process(this.#bands[c]!, 0, frames);
      kept[c]!.process(this.#rests[c]!, 0, frames);
      this.#bodies[c]!.process(this.#keys[c]!, 0, frames);
    }
    for (let n = 0; n < frames; n++) {
      for (let c = 0; c < channels; c++) {
        const band = this.#bands[c]![n]!;
        const body = this.#keys[c]![n]!;
        this.#band += band * band;
        this.#body += body * body;
        output[c]![n] = this.#rests[c]![n]! + this.#gain * band;
      }
      this.#gain += this.#slope;
      if (++this.#heard === STEP_FRAMES) this.#turn(channels);
    }
  }

  #turn(channels: number): void {
    const count = STEP_FRAMES * channels;
    const wanted = dbToGain(-this.reductionDb(this.#band / count, this.#body / count));
    this.#slope = (wanted - this.#gain) / STEP_FRAMES;
    this.#heard = this.#band = this.#body = 0;
  }

  /** Steps in so many seconds. */
  protected static steps(seconds: number, sampleRateHz: number): number {
    return (seconds * sampleRateHz) / STEP_FRAMES;
  }
}
