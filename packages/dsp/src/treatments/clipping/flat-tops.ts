/** Samples on a flat top differ by no more than this: one and a half steps of 16 bits. */
export const FLAT_TOLERANCE = 4.6e-5;
/** So many samples on one level are a flat top. */
const LEAST_RUN = 3;
/** The slope breaks off at its edge: two samples outside, it is this much lower. Smooth peaks are flat far less long. */
const KINK = 10 * FLAT_TOLERANCE;
/** Runs below this level are rounding, not clipping: -40 dBFS. */
const LEAST_LEVEL = 0.01;

/** A run of samples on one level at the top of a wave. */
export interface FlatTop {
  readonly sign: 1 | -1;
  readonly level: number;
  readonly startFrame: number;
  readonly endFrame: number;
}

/** Finds flat tops in one channel as it streams by, also far below full scale. */
export class FlatTopFinder {
  #x1 = 0;
  #x2 = 0;
  #runStart = 0;
  #runLevel = 0;
  #runLength = 0;
  /** The sample two before the run. */
  #before = 0;

  constructor(private readonly onFlatTop: (top: FlatTop) => void) {}

  reset(): void {
    this.#x1 = this.#x2 = this.#runLevel = this.#runLength = this.#before = 0;
  }

  /** Takes x[0 … frames), of which the first is frame `first` of the recording. */
  take(x: Float32Array, frames: number, first: number): void {
    let x1 = this.#x1;
    let x2 = this.#x2;
    let level = this.#runLevel;
    let length = this.#runLength;
    for (let n = 0; n < frames; n++) {
      const now = x[n]!;
      const off = now - level;
      if (length > 0 && off <= FLAT_TOLERANCE && off >= -FLAT_TOLERANCE) length++;
      else {
        if (length >= LEAST_RUN) {
          this.#runLength = length;
          this.#close(now, first + n);
        }
        this.#before = x2;
        this.#runStart = first + n;
        this.#runLevel = level = now;
        length = now > LEAST_LEVEL || now < -LEAST_LEVEL ? 1 : 0;
      }
      x2 = x1;
      x1 = now;
    }
    this.#x1 = x1;
    this.#x2 = x2;
    this.#runLength = length;
  }

  #close(after: number, frame: number): void {
    const sign = this.#runLevel > 0 ? 1 : -1;
    const drop = (x: number): number => (this.#runLevel - x) * sign;
    // A top: lower on both sides, and a kink on one at least.
    if (drop(this.#before) <= 0 || drop(after) <= 0 || Math.max(drop(this.#before), drop(after)) < KINK) return;
    this.onFlatTop({ sign, level: Math.abs(this.#runLevel), startFrame: this.#runStart, endFrame: frame });
  }
}

/** How far around a place flat tops speak for its level. */
export const LEVEL_REACH_SECONDS = 0.75;
/** Levels are kept of steps this long, for so many steps: 20 s at 48 kHz. */
const STEP_FRAMES = 2048;
const KEPT_STEPS = 512;

/** What a step holds of one side: its highest sample, and the level of its highest flat top. */
interface Step {
  readonly startFrame: number;
  up: number;
  down: number;
  topUp: number;
  topDown: number;
}

/** The level at which a channel clips, on each side, from the flat tops around a place. */
export class ClipLevels {
  readonly #steps: Step[] = [];

  add({ sign, level, startFrame }: FlatTop): void {
    for (let i = this.#steps.length - 1; i >= 0; i--) {
      const step = this.#steps[i]!;
      if (step.startFrame > startFrame) continue;
      if (sign === 1) step.topUp = Math.max(step.topUp, level);
      else step.topDown = Math.max(step.topDown, level);
      return;
    }
  }

  /** What streams by: where something is louder than a flat top, that top was not a clipped one. Call it before `add`. */
  take(x: Float32Array, frames: number, first: number): void {
    let step = this.#steps[this.#steps.length - 1];
    if (!step || first - step.startFrame >= STEP_FRAMES) {
      this.#steps.push((step = { startFrame: first, up: 0, down: 0, topUp: 0, topDown: 0 }));
      if (this.#steps.length > KEPT_STEPS) this.#steps.shift();
    }
    let { up, down } = step;
    for (let n = 0; n < frames; n++) {
      const now = x[n]!;
      if (now > up) up = now;
      else if (-now > down) down = -now;
    }
    step.up = up;
    step.down = down;
  }

  reset(): void {
    this.#steps.length = 0;
  }

  /** The level of one side around a frame: that of its flat tops if nothing is louder, or Infinity where it does not clip. */
  at(sign: 1 | -1, frame: number, reachFrames: number): number {
    let top = 0;
    let peak = 0;
    for (const step of this.#steps) {
      if (Math.abs(step.startFrame - frame) > reachFrames) continue;
      top = Math.max(top, sign === 1 ? step.topUp : step.topDown);
      peak = Math.max(peak, sign === 1 ? step.up : step.down);
    }
    return top === 0 || peak > top + 2 * FLAT_TOLERANCE ? Infinity : top;
  }
}
