import type { Memory } from '../memory.js';

/** A block is two periods of the base: over whole periods the lines do not see each other. */
const PERIODS_PER_BLOCK = 2;
/** Share of a block that an estimate takes once it has settled: about a second of quiet at 50 Hz. */
const SETTLED_SHARE = 0.04;
/** How much a block counts whose rest is as strong as the quietest ones have been. */
const QUIET_MARGIN = 3;
const WEIGHT_POWER = 1;
/** The base stands still until the lines have been seen in so many quiet blocks: speech at the start must not pull it away. */
const STEERING_BLOCKS = 8;
/**
 * How the base is steered by a block's phase error. Still: only its frequency, slowly, which mends a base that was set a
 * few hundredths off and lets speech turn nothing. Following: phase and frequency of all lines together, about
 * critically damped, for mains that drift by up to 0.02 Hz a second.
 */
const STILL = { phaseGain: 0, frequencyGain: 0.0008 } as const;
const FOLLOWING = { phaseGain: 0.3, frequencyGain: 0.025 } as const;
/** The base may drift this far, as a share of it: ±0.4 Hz at 50 Hz. */
const MOST_DRIFT = 0.008;

/** Says how quiet a block is against the quietest stretches so far, from the power of what does not fit. */
class QuietJudge {
  quiet = Infinity;
  #fast = 0;
  #slow = 0;
  #blocks = 0;

  /** @param strict judges against the very quietest moments: slower, and surer against speech. */
  constructor(private readonly strict: boolean) {}

  reset(): void {
    this.quiet = Infinity;
    this.#fast = this.#slow = this.#blocks = 0;
  }

  remember(memory: Memory): void {
    this.quiet = memory.number(this.quiet);
    this.#fast = memory.number(this.#fast);
    this.#slow = memory.number(this.#slow);
    this.#blocks = memory.number(this.#blocks);
  }

  /** 1 for a quiet block, towards 0 the louder what does not fit is. */
  judge(rest: number): number {
    this.#blocks++;
    this.#fast += Math.max(0.3, 1 / this.#blocks) * (rest - this.#fast);
    this.#slow += Math.max(0.12, 1 / this.#blocks) * (rest - this.#slow);
    this.quiet = Math.min(this.strict ? this.#fast : this.#slow, this.quiet * 1.005);
    return Math.min(1, (QUIET_MARGIN * this.quiet) / (rest + this.#fast)) ** WEIGHT_POWER;
  }
}

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
  /** Judges blocks by all that does not fit, and by what does not fit along the estimate. */
  readonly all: QuietJudge;
  readonly along: QuietJudge;
}

/** Of a line, what one block hands to the next. */
const REMEMBERED = ['oscRe', 'oscIm', 're', 'im', 'lastRe', 'lastIm', 'trust', 'share', 'weight'] as const;

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

  /** @param follows whether the lines drift. Lines above 0.48 of the sample rate are left out. */
  constructor(sampleRateHz: number, baseHz: number, harmonics: readonly number[], follows: boolean) {
    this.#sampleRateHz = sampleRateHz;
    this.#nominalHz = baseHz;
    this.#baseHz = baseHz;
    this.#follows = follows;
    this.blockFrames = Math.round((PERIODS_PER_BLOCK * sampleRateHz) / baseHz);
    this.#lines = harmonics
      .filter((harmonic) => harmonic * baseHz < 0.48 * sampleRateHz)
      .map((harmonic) => ({
        harmonic,
        oscRe: 1,
        oscIm: 0,
        startRe: 1,
        startIm: 0,
        stepRe: 1,
        stepIm: 0,
        sumRe: 0,
        sumIm: 0,
        re: 0,
        im: 0,
        lastRe: 0,
        lastIm: 0,
        trust: 0,
        share: 0,
        weight: 0,
        all: new QuietJudge(!follows),
        along: new QuietJudge(false),
      }));
    this.#tune();
  }

  /** The base as it is now. */
  get baseHz(): number {
    return this.#baseHz;
  }

  reset(): void {
    this.#baseHz = this.#nominalHz;
    this.#blocks = 0;
    for (const line of this.#lines) {
      Object.assign(line, { oscRe: 1, oscIm: 0, sumRe: 0, sumIm: 0, re: 0, im: 0, lastRe: 0, lastIm: 0, trust: 0, share: 0, weight: 0 });
      line.all.reset();
      line.along.reset();
    }
    this.#tune();
  }

  remember(memory: Memory): void {
    this.#baseHz = memory.number(this.#baseHz);
    this.#blocks = memory.number(this.#blocks);
    for (const line of this.#lines) {
      for (const name of REMEMBERED) line[name] = memory.number(line[name]);
      line.all.remember(memory);
      line.along.remember(memory);
    }
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
    if (trust > 0) this.#steer(error / trust);
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
    const length = line.re * line.re + line.im * line.im;
    const whole = offRe * offRe + offIm * offIm + 1e-24;
    // A base that is a little off turns the phase and leaves the length; speech changes both alike. So for the phase,
    // what does not fit is judged along the estimate, and a drift is not taken for speech.
    const along = this.#blocks < 3 ? whole : (2 * (offRe * line.re + offIm * line.im) ** 2) / (length + 1e-30) + 1e-24;
    const learnt = line.all.quiet;
    const weight = line.all.judge(whole);
    const phaseWeight = line.along.judge(along);
    line.share = this.#follows ? phaseWeight : weight;
    // What was learnt in louder surroundings counts for less: information goes with one over the variance.
    if (line.all.quiet < learnt) line.weight *= learnt === Infinity ? 0 : line.all.quiet / learnt;
    line.weight += weight;
    const share = weight * Math.max(SETTLED_SHARE, 1 / line.weight);
    line.re += share * offRe;
    line.im += share * offIm;
    const power = line.re * line.re + line.im * line.im;
    // A line that hardly stands out of its surroundings has no phase worth following.
    const { quiet } = this.#follows ? line.along : line.all;
    const stands = line.weight >= STEERING_BLOCKS && power > 10 * quiet * SETTLED_SHARE;
    line.trust = stands ? Math.min(1e4, power / quiet) : 0;
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

  /** A loop of second order on the phase that all lines share; each line's own amplitude stays slow. */
  #steer(phaseError: number): void {
    const blockSeconds = this.blockFrames / this.#sampleRateHz;
    const { phaseGain, frequencyGain } = this.#follows ? FOLLOWING : STILL;
    const moved = this.#baseHz + (frequencyGain * phaseError) / (2 * Math.PI * blockSeconds);
    const most = this.#nominalHz * MOST_DRIFT;
    this.#baseHz = Math.max(this.#nominalHz - most, Math.min(this.#nominalHz + most, moved));
    for (const line of this.#lines) {
      const turn = phaseGain * phaseError * line.harmonic;
      const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
      const re = line.oscRe * cos - line.oscIm * sin;
      line.oscIm = line.oscRe * sin + line.oscIm * cos;
      line.oscRe = re;
    }
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
  Array.isArray(listed) && listed.length > 0
    ? [...new Set(listed as number[])].sort((a, b) => a - b)
    : Array.from({ length: count }, (_, i) => i + 1);

/** The highest harmonic that can be switched on. */
export const MOST_HARMONICS = 40;
