import { Chain, createBlock, Turn, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import type { SampleStore } from './sample-store.js';
import type { Timeline } from './timeline.js';

/** Quanta of the turn for one of the chain, after a start. */
const TURN_QUANTA = 3;

/** Frames in one turn of the audio clock. */
export const QUANTUM_FRAMES = 128;

/**
 * Chains start on this grid of the recording, so that frames of the short-time Fourier transform fall where they
 * fall in a render from the first frame: what is heard is then what is rendered. Hops are 64 to 2048 frames.
 */
export const GRID_FRAMES = 2048;

/** What is heard, and what it is compared with. */
export interface VoiceSound {
  /** What the chain hears: the recording, or what was rendered of it in the background. */
  readonly store: SampleStore;
  /** What was done before `store`, and the chain itself: the source is turned as all of it turns. */
  readonly whole: ChainSpec;
}

/** A chain with its place on the timeline: it reads ahead by its own latency; beside it the source, turned alike. */
export class Voice {
  readonly out: Float32Array[];
  /** The source in line with `out`. */
  readonly dry: Float32Array[];
  /** The last catchUp ended for want of samples. */
  starved = false;
  readonly #chain: Chain;
  readonly #in: Float32Array[];
  readonly #turn: Turn;
  /** Play position of the next frame that goes in. */
  #inPosition = 0;
  #turnPosition = 0;
  readonly #frameAgo = (frames: number): number => this.timeline.frameAt(this.#inPosition - frames);

  constructor(
    context: ProcessorContext,
    spec: ChainSpec,
    private readonly timeline: Timeline,
    readonly sound: VoiceSound,
  ) {
    this.#chain = new Chain(context, spec);
    this.#turn = new Turn(context, sound.whole);
    this.dry = createBlock(context.channels, QUANTUM_FRAMES);
    this.out = createBlock(context.channels, QUANTUM_FRAMES);
    this.#in = createBlock(context.channels, QUANTUM_FRAMES);
  }

  get latencyFrames(): number {
    return this.#chain.latencyFrames;
  }

  /** How far ahead it reads. */
  get aheadFrames(): number {
    return Math.max(this.#chain.latencyFrames, this.#turn.latencyFrames);
  }

  setParameters(spec: ChainSpec, whole: ChainSpec): boolean {
    return this.#turn.setParameters(whole) && this.#chain.setParameters(spec);
  }

  /** Forgets what it heard; the next frame in will be `leadFrames` or a little more before what is due at `position`. */
  startAt(position: number, leadFrames: number): void {
    this.#chain.reset();
    const start = position + this.latencyFrames - leadFrames;
    const frame = this.timeline.frameAt(position) + start - position;
    this.#inPosition = start - (((frame % GRID_FRAMES) + GRID_FRAMES) % GRID_FRAMES);
    // Before the recording there is nothing to be heard: what remembers for long begins where a render begins.
    const first = frame - start + this.#inPosition;
    if (first < 0 && frame - start + position >= 0) this.#inPosition -= first;
    this.#turn.reset();
    this.#turnPosition = this.#inPosition - this.latencyFrames;
  }

  /**
   * Works towards the output for `position`, at most `quanta` quanta. True when that is the next to come; false
   * when there is more to do, or samples are missing (`starved`).
   */
  catchUp(position: number, quanta: number): boolean {
    this.starved = false;
    // The turn is far cheaper than a chain: it goes first, a good piece a turn.
    if (!this.#turnUpTo(this.#turnDue, TURN_QUANTA * quanta)) return false;
    for (let i = 0; i < quanta; i++) {
      const missing = position + this.latencyFrames - this.#inPosition;
      if (missing <= 0) return true;
      if (!this.run(Math.min(QUANTUM_FRAMES, missing))) {
        this.starved = true;
        return false;
      }
    }
    return position + this.latencyFrames <= this.#inPosition;
  }

  /** Makes the next `frames` frames. False, and nothing moved, when samples are missing. */
  run(frames: number): boolean {
    if (!this.#turnUpTo(this.#turnDue, Infinity)) return false;
    if (!this.timeline.read(this.#turnPosition, this.dry as PlanarBlock, frames)) return false;
    if (!this.timeline.read(this.#inPosition, this.#in as PlanarBlock, frames, this.sound.store)) return false;
    this.#turn.process(this.dry, this.dry, frames);
    this.#chain.locateStages(this.#frameAgo);
    this.#chain.process(this.#in, this.out, frames);
    this.#inPosition += frames;
    this.#turnPosition += frames;
    return true;
  }

  /** How far the turn must have heard for what is due: it looks ahead by its own latency, more or less than the chain. */
  get #turnDue(): number {
    return this.#inPosition - this.latencyFrames + this.#turn.latencyFrames;
  }

  /** Lets the turn hear up to a position. False when there is more to hear after so many quanta, or samples are missing (`starved`). */
  #turnUpTo(position: number, quanta: number): boolean {
    for (let i = 0; this.#turnPosition < position; i++) {
      if (i === quanta) return false;
      const frames = Math.min(QUANTUM_FRAMES, position - this.#turnPosition);
      if (!this.timeline.read(this.#turnPosition, this.dry as PlanarBlock, frames)) {
        this.starved = true;
        return false;
      }
      this.#turn.process(this.dry, this.dry, frames);
      this.#turnPosition += frames;
    }
    return true;
  }
}
