/** A block is two periods of the base: over whole periods the lines do not see each other. */
const PERIODS_PER_BLOCK = 2;
/** Share of a block that an estimate takes once it has settled: about 1 s of quiet at 50 Hz. */
const SETTLED_SHARE = 0.04;
/** How much a block counts whose rest is as strong as the quietest ones have been. */
const QUIET_MARGIN = 3;
/** The base stands still until the lines have been seen in so many quiet blocks: speech at the start must not pull it away. */
const STEERING_BLOCKS = 8;
/** The base may drift this far, as a share of it: ±0.4 Hz at 50 Hz. */
const MOST_DRIFT = 0.008;

/** Estimate of one line: a complex amplitude against an oscillator that never stops. */
interface Line {
  readonly harmonic: number;
  /** The oscillator, and where it stood when the block began. */
  oscRe: number;
  oscIm: number;
  startRe: number;
  startIm: number;
  stepRe: number;
  stepIm: number;
  sumRe: number;
  sumIm: number;
  re: number;
  im: number;
  /** Amplitude at the end of the last block, from which the next one starts. */
  lastRe: number;
  lastIm: number;
  /** How far its phase is trusted, and how quiet this block was, 0 … 1. */
  trust: number;
  share: number;
  /** Sum of the weights that went into the estimate. */
  weight: number;
  /** Power of what is not the line, over the last few blocks, and in the quietest ones so far. */
  rest: number;
  quiet: number;
}

/**
 * Follows steady lines under speech. Each block of two periods is correlated with an oscillator a line; the estimate
 * moves towards the result by a share that falls with the power of what does not fit (speech, when somebody speaks),
 * measured against the quietest blocks so far. So a voice that passes a harmonic leaves the estimate where it is.
 * The common phase error of the lines steers the base frequency (a phase-locked loop of second order).
 */
export class LineTracker {
  readonly blockFrames: number;
  readonly #lines: Line[];
  readonly #sampleRateHz: number;
  readonly #nominalHz: number;
  readonly #follows: boolean;
  #baseHz: number;
  #blocks = 0;

  /** @param follows whether the base frequency is steered. Lines above 0.48 of the sample rate are left out. */
  constructor(sampleRateHz: number, baseHz: number, harmonics: readonly number[], follows: boolean) {
    this.#sampleRateHz = sampleRateHz;
    this.#nominalHz = baseHz;
    this.#baseHz = baseHz;
    this.#follows = follows;
    this.blockFrames = Math.round((PERIODS_PER_BLOCK * sampleRateHz) / baseHz);
    this.#lines = harmonics
      .filter((harmonic) => harmonic * baseHz < 0.48 * sampleRateHz)
      .map((harmonic) => ({ harmonic, oscRe: 1, oscIm: 0, startRe: 1, startIm: 0, stepRe: 1, stepIm: 0, sumRe: 0, sumIm: 0, re: 0, im: 0, lastRe: 0, lastIm: 0, trust: 0, share: 0, weight: 0, rest: 0, quiet: Infinity }));
    this.#tune();
  }

  /** The base as it is now. */
  get baseHz(): number {
    return this.#baseHz;
  }

  reset(): void {
    this.#baseHz = this.#nominalHz;
    this.#blocks = 0;
    for (const line of this.#lines) Object.assign(line, { oscRe: 1, oscIm: 0, sumRe: 0, sumIm: 0, re: 0, im: 0, lastRe: 0, lastIm: 0, trust: 0, share: 0, weight: 0, rest: 0, quiet: Infinity });
    this.#tune();
  }

  /** Takes one block: updates the estimates, and with `removeFrom` subtracts the lines from the block itself. */
  take(block: Float32Array, removeFrom: boolean): void {
    for (const line of this.#lines) this.#correlate(line, block);
    this.#blocks++;
    let error = 0;
    let trust = 0;
    for (const line of this.#lines) {
      const phase = this.#estimate(line);
      // A line h times as high sees h times the error; its phase says h times as much. A line in speech says little.
      error += line.trust * line.share * line.harmonic * phase;
      trust += line.trust * line.harmonic * line.harmonic;
    }
    if (removeFrom) for (const line of this.#lines) this.#subtract(line, block);
    for (const line of this.#lines) {
      line.lastRe = line.re;
      line.lastIm = line.im;
    }
    if (this.#follows && trust > 0) this.#steer(error / trust);
  }

  #correlate(line: Line, block: Float32Array): void {
    let { oscRe, oscIm } = line;
    const { stepRe, stepIm } = line;
    line.startRe = oscRe;
    line.startIm = oscIm;
    let sumRe = 0;
    let sumIm = 0;
    const { blockFrames } = this;
    for (let n = 0; n < blockFrames; n++) {
      const x = block[n]!;
      sumRe += x * oscRe;
      sumIm -= x * oscIm;
      const re = oscRe * stepRe - oscIm * stepIm;
      oscIm = oscRe * stepIm + oscIm * stepRe;
      oscRe = re;
    }
    // Rounding would let the oscillator grow or shrink over hours.
    const size = Math.hypot(oscRe, oscIm);
    line.oscRe = oscRe / size;
    line.oscIm = oscIm / size;
    line.sumRe = (2 * sumRe) / this.blockFrames;
    line.sumIm = (2 * sumIm) / this.blockFrames;
  }

  /** Moves the estimate; returns its phase error in radians. */
  #estimate(line: Line): number {
    const offRe = line.sumRe - line.re;
    const offIm = line.sumIm - line.im;
    const rest = offRe * offRe + offIm * offIm + 1e-24;
    line.rest += (this.#blocks === 1 ? 1 : 0.3) * (rest - line.rest);
    const before = line.quiet;
    line.quiet = Math.min(line.rest, before * 1.005);
    // What was learnt in louder surroundings counts for less: information goes with one over the variance.
    if (line.quiet < before) line.weight *= before === Infinity ? 0 : line.quiet / before;
    const { quiet } = line;
    const weight = Math.min(1, (QUIET_MARGIN * quiet) / (rest + line.rest));
    line.weight += weight;
    const share = weight * Math.max(SETTLED_SHARE, 1 / line.weight);
    line.re += share * offRe;
    line.im += share * offIm;
    const power = line.re * line.re + line.im * line.im;
    // A line that hardly stands out of its surroundings has no phase worth following.
    const stands = line.weight >= STEERING_BLOCKS && power > 10 * quiet * SETTLED_SHARE;
    line.trust = stands ? Math.min(1e4, power / quiet) : 0;
    line.share = weight;
    return stands ? Math.max(-0.5, Math.min(0.5, (offIm * line.re - offRe * line.im) / power)) : 0;
  }

  #subtract(line: Line, block: Float32Array): void {
    let oscRe = line.startRe;
    let oscIm = line.startIm;
    const { stepRe, stepIm } = line;
    // In the very first block there is no estimate to come from.
    const first = this.#blocks === 1;
    let re = first ? line.re : line.lastRe;
    let im = first ? line.im : line.lastIm;
    const goRe = (line.re - re) / this.blockFrames;
    const goIm = (line.im - im) / this.blockFrames;
    const { blockFrames } = this;
    for (let n = 0; n < blockFrames; n++) {
      block[n]! -= re * oscRe - im * oscIm;
      re += goRe;
      im += goIm;
      const next = oscRe * stepRe - oscIm * stepIm;
      oscIm = oscRe * stepIm + oscIm * stepRe;
      oscRe = next;
    }
  }

  #steer(phaseError: number): void {
    const gain = (SETTLED_SHARE * SETTLED_SHARE) / 2;
    const blockSeconds = this.blockFrames / this.#sampleRateHz;
    const moved = this.#baseHz + (gain * phaseError) / (2 * Math.PI * blockSeconds);
    const most = this.#nominalHz * MOST_DRIFT;
    this.#baseHz = Math.max(this.#nominalHz - most, Math.min(this.#nominalHz + most, moved));
    this.#tune();
  }

  #tune(): void {
    for (const line of this.#lines) {
      const angle = (2 * Math.PI * this.#baseHz * line.harmonic) / this.#sampleRateHz;
      line.stepRe = Math.cos(angle);
      line.stepIm = Math.sin(angle);
    }
  }
}

/** The harmonics that are on: those listed, or the first `count` when none is. */
export const harmonicsOf = (count: number, listed: unknown): readonly number[] =>
  Array.isArray(listed) && listed.length > 0 ? [...new Set(listed as number[])].sort((a, b) => a - b) : Array.from({ length: count }, (_, i) => i + 1);

/** The highest harmonic that can be switched on. */
export const MOST_HARMONICS = 40;
