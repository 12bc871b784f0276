import { Chain, createBlock, memoryKey, Turn, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { GRID_FRAMES, type Memories, type Recall } from './memories.js';
import type { SampleStore } from './sample-store.js';
import type { Timeline } from './timeline.js';

/** Quanta of the turn for one of the chain, after a start. */
const TURN_QUANTA = 3;

/** Frames in one turn of the audio clock. */
export const QUANTUM_FRAMES = 128;

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
  /** What it reads on its way, when it started from what was remembered. */
  #recall: Recall | null = null;
  /** It is what a render is: it began at the beginning, remembers all that came before, or nothing for long. */
  #exact = true;
  /** Play position of the next frame that goes in. */
  #inPosition = 0;
  #turnPosition = 0;
  #whole: ChainSpec;
  #keyOf: ChainSpec | null = null;
  #keyKnown = '';
  /** The key of its chain when it started. */
  #startedAs = '';
  readonly #frameAgo = (frames: number): number => this.timeline.frameAt(this.#inPosition - frames);

  constructor(
    context: ProcessorContext,
    spec: ChainSpec,
    private readonly timeline: Timeline,
    readonly sound: VoiceSound,
  ) {
    this.#chain = new Chain(context, spec);
    this.#turn = new Turn(context, sound.whole);
    this.#whole = sound.whole;
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

  /** What it remembers is what a render remembers there. What was heard with other values is remembered too. */
  get exact(): boolean {
    if (this.#rememberingStages === 0) return true;
    if (this.#exact && this.#startedAs !== this.#key) this.#exact = false;
    return this.#exact;
  }

  /** Worked out when it is asked for, not with every movement of a control. */
  get #key(): string {
    if (this.#keyOf !== this.#whole) {
      this.#keyOf = this.#whole;
      this.#keyKnown = memoryKey(this.#whole);
    }
    return this.#keyKnown;
  }

  /** Whether it could start from what is remembered, so as to be exact. */
  knows(memories: Memories, position: number): boolean {
    return (
      memories.key === this.#key &&
      memories.startFor(this.timeline.frameAt(position) + this.latencyFrames, this.#rememberingStages) !== null
    );
  }

  /** Stages that remember for long, one behind the other. */
  get #rememberingStages(): number {
    return Math.max(this.#chain.rememberingStages, this.#turn.rememberingStages);
  }

  setParameters(spec: ChainSpec, whole: ChainSpec): boolean {
    if (!this.#turn.setParameters(whole) || !this.#chain.setParameters(spec)) return false;
    this.#whole = whole;
    return true;
  }

  /**
   * Forgets what it heard; the next frame in will be `leadFrames` or a little more before what is due at `position`. With the memories
   * of its chain it starts from what was remembered there: it is then what a render is.
   */
  startAt(position: number, leadFrames: number, memories: Memories | null = null): void {
    this.#chain.reset();
    this.#turn.reset();
    const heard = this.timeline.frameAt(position);
    const due = heard + this.latencyFrames;
    const start = memories?.key === this.#key ? memories.startFor(due, this.#rememberingStages) : null;
    let first = start?.startFrame ?? GRID_FRAMES * Math.floor((due - leadFrames) / GRID_FRAMES);
    // Before the recording there is nothing to be heard: what remembers for long begins where a render begins.
    if (first < 0 && heard >= 0) first = 0;
    this.#recall = start?.recall ?? null;
    this.#startedAs = this.#key;
    this.#exact = start !== null || first === 0;
    this.#inPosition = position + first - heard;
    this.#turnPosition = this.#inPosition - this.latencyFrames;
    if (first >= 0) this.#chain.goOnAt(first);
    if (first >= this.latencyFrames) this.#turn.goOnAt(first - this.latencyFrames);
  }

  #readRecall(what: 'chain' | 'turn', position: number): void {
    if (!this.#recall) return;
    const frame = this.timeline.frameAt(position);
    if (this.#recall.nextFrame(what, frame) === frame) this.#recall.read(what, frame, what === 'chain' ? this.#chain : this.#turn);
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
    this.#turnOn(frames);
    this.#readRecall('chain', this.#inPosition);
    this.#chain.locateStages(this.#frameAgo);
    this.#chain.process(this.#in, this.out, frames);
    this.#inPosition += frames;
    return true;
  }

  /** Turns what stands in `dry`. What is remembered is read where it is due, and what lies before the recording is left out. */
  #turnOn(frames: number): void {
    const end = this.#turnPosition + frames;
    for (let at = this.#framesBefore(this.#turnPosition, frames); at < frames;) {
      const position = this.#turnPosition + at;
      const frame = this.timeline.frameAt(position);
      this.#readRecall('turn', position);
      const count = Math.min(frames - at, (this.#recall?.nextFrame('turn', frame + 1) ?? Infinity) - frame);
      const part = count === frames ? this.dry : this.dry.map((samples) => samples.subarray(at, at + count));
      this.#turn.process(part, part, count);
      at += count;
    }
    this.#turnPosition = end;
  }

  /** Of so many frames from a position on, how many lie before the recording: the turn begins where a render begins. */
  #framesBefore(position: number, frames: number): number {
    return Math.max(0, Math.min(frames, -this.timeline.frameAt(position)));
  }

  /** How far the turn must have heard for what is due: it looks ahead by its own latency, more or less than the chain. */
  get #turnDue(): number {
    return this.#inPosition - this.latencyFrames + this.#turn.latencyFrames;
  }

  /** Lets the turn hear up to a position. False when there is more to hear after so many quanta, or samples are missing (`starved`). */
  #turnUpTo(position: number, quanta: number): boolean {
    this.#turnPosition += this.#framesBefore(this.#turnPosition, Math.max(0, position - this.#turnPosition));
    for (let i = 0; this.#turnPosition < position; i++) {
      if (i === quanta) return false;
      const frames = Math.min(QUANTUM_FRAMES, position - this.#turnPosition);
      if (!this.timeline.read(this.#turnPosition, this.dry as PlanarBlock, frames)) {
        this.starved = true;
        return false;
      }
      this.#turnOn(frames);
    }
    return true;
  }
}
