import { Cascade } from '../filters/cascade.js';
import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { GrowingList } from './growing-list.js';
import { kWeighting } from './k-weighting.js';

/** Loudness of a weighted mean square, ITU-R BS.1770-5 eq. 2. */
export const powerToLufs = (power: number): number => (power < SILENT_POWER ? -Infinity : -0.691 + 10 * Math.log10(power));
/** Below -200 LUFS there is only the filters' own rounding. */
const SILENT_POWER = 1e-20;
export const lufsToPower = (lufs: number): number => 10 ** ((lufs + 0.691) / 10);

/** Finest step of the windows. EBU Tech 3341 asks momentary loudness at 10 Hz or more; this is 50 Hz. */
const STEPS_PER_SECOND = 50;
/** Frames of a step. */
export const stepFramesOf = (sampleRateHz: number): number => Math.round(sampleRateHz / STEPS_PER_SECOND);
const MOMENTARY_STEPS = 20;
const SHORT_TERM_STEPS = 150;
/** Gating blocks of 400 ms overlap by 75 %: one every 100 ms. */
const BLOCK_STEPS = 5;
export const ABSOLUTE_GATE_LUFS = -70;

/** Steps of 20 ms with their mean squares, K-weighted and summed over the channels: everything that is told of loudness, from these alone. */
export class StepLoudness {
  readonly #ring = new Float64Array(SHORT_TERM_STEPS);
  readonly #blocks = new GrowingList();
  readonly #shortTerms = new GrowingList();
  #steps = 0;
  #maxMomentary = 0;
  #maxShortTerm = 0;

  /** Takes the next step. */
  add(power: number): void {
    this.#ring[this.#steps % SHORT_TERM_STEPS] = power;
    this.#steps++;
    if (this.#steps >= MOMENTARY_STEPS) {
      const momentary = this.#mean(MOMENTARY_STEPS);
      this.#maxMomentary = Math.max(this.#maxMomentary, momentary);
      if (this.#steps % BLOCK_STEPS === 0) this.#blocks.push(momentary);
    }
    if (this.#steps >= SHORT_TERM_STEPS && this.#steps % BLOCK_STEPS === 0) {
      const shortTerm = this.#mean(SHORT_TERM_STEPS);
      this.#maxShortTerm = Math.max(this.#maxShortTerm, shortTerm);
      this.#shortTerms.push(shortTerm);
    }
  }

  /** Mean power of the last `steps` steps; what has not been heard yet counts as silence. */
  #mean(steps: number): number {
    let sum = 0;
    for (let i = 1; i <= Math.min(steps, this.#steps); i++) sum += this.#ring[(this.#steps - i) % SHORT_TERM_STEPS]!;
    return sum / steps;
  }

  /** Loudness of the last 400 ms; -Infinity for silence. */
  get momentaryLufs(): number {
    return powerToLufs(this.#mean(MOMENTARY_STEPS));
  }

  /** Loudness of the last 3 s; -Infinity for silence. */
  get shortTermLufs(): number {
    return powerToLufs(this.#mean(SHORT_TERM_STEPS));
  }

  get maxMomentaryLufs(): number {
    return powerToLufs(this.#maxMomentary);
  }

  get maxShortTermLufs(): number {
    return powerToLufs(this.#maxShortTerm);
  }

  /** Gated loudness (BS.1770-5 eq. 5–7); undefined when no 400 ms block passes -70 LUFS. */
  get integratedLufs(): number | undefined {
    const blocks = this.#blocks.values();
    const audible = meanAbove(blocks, lufsToPower(ABSOLUTE_GATE_LUFS));
    if (audible === undefined) return undefined;
    return powerToLufs(meanAbove(blocks, audible / 10)!);
  }

  /** Loudness range (EBU Tech 3342): 10th to 95th percentile of gated short-term loudness; undefined under 3 s. */
  get loudnessRangeLu(): number | undefined {
    return rangeOfPowers(this.#shortTerms.values());
  }

  /** Momentary loudness every 100 ms from 400 ms on, in LUFS: that of the gating blocks. */
  get momentaryHistoryLufs(): number[] {
    return Array.from(this.#blocks.values(), powerToLufs);
  }

  /** Short-term loudness every 100 ms from 3 s on, in LUFS. */
  get shortTermHistoryLufs(): number[] {
    return Array.from(this.#shortTerms.values(), powerToLufs);
  }
}

/**
 * Loudness meter after ITU-R BS.1770-5 and EBU Tech 3341/3342. Feed it blocks; read momentary and
 * short-term loudness at any time, integrated loudness and range at the end (or so far).
 */
export class LoudnessMeter extends StepLoudness {
  readonly #filters: Cascade[];
  readonly #weights: readonly number[];
  readonly #stepFrames: number;
  readonly #onStep: ((power: number, energy: number, peak: number) => void) | undefined;
  #stepEnergy = 0;
  #stepPeak = 0;
  #stepPower = 0;
  #stepFill = 0;

  /**
   * @param weights one a channel; 1 for left, right and centre, 1.41 for surrounds (BS.1770 table 3).
   * @param onStep is told of every step (see `stepFramesOf`): its weighted mean square, and what came in: sum of squares, largest magnitude
   */
  constructor(
    kernels: KernelModule,
    sampleRateHz: number,
    channels: number,
    weights: readonly number[] = new Array<number>(channels).fill(1),
    onStep?: (power: number, energy: number, peak: number) => void,
  ) {
    super();
    this.#weights = weights;
    this.#filters = Array.from({ length: channels }, () => new Cascade(kernels, kWeighting(sampleRateHz)));
    this.#stepFrames = stepFramesOf(sampleRateHz);
    this.#onStep = onStep;
  }

  process(block: PlanarBlock, frames: number): void {
    let from = 0;
    while (from < frames) {
      const count = Math.min(frames - from, this.#stepFrames - this.#stepFill);
      for (let c = 0; c < this.#filters.length; c++) {
        const filter = this.#filters[c]!;
        this.#stepPower += filter.sumOfSquares(block[c]!, from, from + count) * this.#weights[c]!;
        this.#stepEnergy += filter.energy;
        this.#stepPeak = Math.max(this.#stepPeak, filter.peak);
      }
      from += count;
      this.#stepFill += count;
      if (this.#stepFill === this.#stepFrames) this.#endStep();
    }
  }

  #endStep(): void {
    const power = this.#stepPower / this.#stepFrames;
    this.#stepPower = 0;
    this.#stepFill = 0;
    this.add(power);
    this.#onStep?.(power, this.#stepEnergy, this.#stepPeak);
    this.#stepEnergy = 0;
    this.#stepPeak = 0;
  }
}

/** Loudness range of powers of short-term loudness (EBU Tech 3342), LU; undefined where none is above the absolute gate. */
export function rangeOfPowers(shortTerms: Float64Array): number | undefined {
  const audible = meanAbove(shortTerms, lufsToPower(ABSOLUTE_GATE_LUFS));
  if (audible === undefined) return undefined;
  const gated = shortTerms.filter((power) => power >= audible / 100).sort();
  const at = (share: number): number => powerToLufs(gated[Math.round(share * (gated.length - 1))]!);
  return at(0.95) - at(0.1);
}

/** Mean of the values that are at or above a limit; undefined when there is none. */
function meanAbove(values: Float64Array, limit: number): number | undefined {
  let sum = 0;
  let count = 0;
  for (const value of values)
    if (value >= limit) {
      sum += value;
      count++;
    }
  return count === 0 ? undefined : sum / count;
}
