import { LEAD_SECONDS, Memory, type Chain, type Turn } from '@euphonos/dsp';

/**
 * Chains start on this grid of the recording, so that frames of the short-time Fourier transform fall where they
 * fall in a render from the first frame: what is heard is then what is rendered. Hops are 64 to 2048 frames.
 */
export const GRID_FRAMES = 2048;

/** After what a stage remembers was read, this long until what it makes is right: a window, its look-ahead, and what follows. */
const SETTLE_SECONDS = 0.25;
/** What comes next in a chain is read so much later. */
const STEP_SECONDS = 0.17;
/** Memories are this far apart, or further, so that all of them stay within this. */
const SPACING_SECONDS = 0.5;
const MOST_BYTES = 40e6;

const gridded = (seconds: number, sampleRateHz: number): number => GRID_FRAMES * Math.ceil((seconds * sampleRateHz) / GRID_FRAMES);

/** What every remembering stage of a chain, and of the turn beside it, remembers at one place. */
export interface Remembered {
  readonly chain: readonly ArrayBuffer[];
  readonly turn: readonly ArrayBuffer[];
}

/** From where a chain starts, so that it is right where it is due; and what it reads on its way, if it must. */
export interface Start {
  readonly startFrame: number;
  readonly recall: Recall | null;
}

/**
 * What the stages of a chain remember at a place of the stream that goes in, `atFrame`: the first stage there, each other one a step
 * later than the one before, since it can only be right once that one was.
 */
export class Recall {
  constructor(
    readonly atFrame: number,
    private readonly remembered: Remembered,
    private readonly stepFrames: number,
  ) {}

  /** Where something is to be read next by what has heard up to `frame`; Infinity when nothing is. */
  nextFrame(what: keyof Remembered, frame: number): number {
    const index = Math.max(0, Math.ceil((frame - this.atFrame) / this.stepFrames));
    return index < this.remembered[what].length ? this.atFrame + index * this.stepFrames : Infinity;
  }

  /** Lets the stage read whose turn it is at `frame`. */
  read(what: keyof Remembered, frame: number, into: Chain | Turn): void {
    const index = (frame - this.atFrame) / this.stepFrames;
    into.rememberStage(index, new Memory(this.remembered[what][index]!));
  }
}

/**
 * What a chain remembers, at multiples of `spacingFrames` of the recording: it can start anywhere and be what a render from the
 * first frame is. Made by a pass (./memory-pass.ts); `key` names what it is of.
 */
export class Memories {
  readonly #held = new Map<number, Remembered>();
  readonly #leadFrames: number;
  readonly stepFrames: number;
  readonly #settleFrames: number;

  constructor(
    readonly key: string,
    sampleRateHz: number,
    readonly spacingFrames: number,
  ) {
    this.#leadFrames = gridded(LEAD_SECONDS, sampleRateHz);
    this.stepFrames = gridded(STEP_SECONDS, sampleRateHz);
    this.#settleFrames = gridded(SETTLE_SECONDS, sampleRateHz);
  }

  /** How far apart they are to be: `bytes` is what one takes. */
  static spacingFrames(sampleRateHz: number, lengthFrames: number, bytes: number): number {
    return GRID_FRAMES * Math.ceil(Math.max(SPACING_SECONDS * sampleRateHz, (lengthFrames * bytes) / MOST_BYTES) / GRID_FRAMES);
  }

  put(index: number, remembered: Remembered): void {
    this.#held.set(index, remembered);
  }

  /** How many stages of the chain, or of the turn, remember; 0 while nothing is known. */
  get stages(): number {
    for (const { chain, turn } of this.#held.values()) return Math.max(chain.length, turn.length);
    return 0;
  }

  get(index: number): Remembered | undefined {
    return this.#held.get(index);
  }

  /** Where to start so that what goes in at `dueFrame` is right: null when what is needed is not there (yet). */
  startFor(dueFrame: number, stages: number): Start | null {
    const settled = dueFrame - this.#settleFrames - Math.max(0, stages - 1) * this.stepFrames;
    const index = Math.floor(settled / this.spacingFrames);
    const startFrame = index * this.spacingFrames - this.#leadFrames;
    // From the very beginning nothing needs to be remembered.
    if (startFrame <= 0) return { startFrame: 0, recall: null };
    const remembered = this.#held.get(index);
    return remembered ? { startFrame, recall: new Recall(index * this.spacingFrames, remembered, this.stepFrames) } : null;
  }
}
