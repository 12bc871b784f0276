import { Chain, createBlock, MAX_BLOCK_FRAMES, Memory, Turn, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { GRID_FRAMES, Memories, type Recall, type Remembered } from './memories.js';

/**
 * Runs a chain over a recording for what it remembers, and for nothing else: from the first frame, or on from what is remembered
 * already. Feed it in order, from `nextFrame` on, whatever pieces.
 */
export class MemoryPass {
  readonly memories: Memories;
  readonly #chain: Chain;
  readonly #turn: Turn;
  readonly #out: Float32Array[];
  /** Memories that are being taken, by their index. */
  readonly #taken = new Map<number, { readonly chain: ArrayBuffer[]; readonly turn: ArrayBuffer[] }>();
  #frame: number;
  #begun: number;
  /** What is read on the way, when it goes on. */
  #recall: Recall | null = null;

  /**
   * @param before what is remembered of the same chain, and right up to `unchangedFrames`.
   * @param key names chain, sound and profile, for whoever starts from the memories.
   */
  constructor(
    context: ProcessorContext,
    live: ChainSpec,
    whole: ChainSpec,
    lengthFrames: number,
    key: string,
    before?: { readonly memories: Memories; readonly unchangedFrames: number },
    /** Gets what the chain makes, late by its latency; used again afterwards. */
    private readonly onOut?: (out: PlanarBlock, frames: number) => void,
  ) {
    this.#chain = new Chain(context, live);
    this.#turn = new Turn(context, whole);
    this.#out = createBlock(context.channels, MAX_BLOCK_FRAMES);
    const bytes = this.#bytes();
    this.memories = new Memories(key, context.sampleRateHz, Memories.spacingFrames(context.sampleRateHz, lengthFrames, bytes));
    const start =
      before?.memories.spacingFrames === this.memories.spacingFrames ? this.#goOn(before!.memories, before!.unchangedFrames) : 0;
    this.#frame = start;
    this.#begun = start;
  }

  /** The frame that is to be fed next. */
  get nextFrame(): number {
    return this.#frame;
  }

  get latencyFrames(): number {
    return this.#chain.latencyFrames;
  }

  /** Starts where something is remembered; returns the frame. */
  #goOn(memories: Memories, unchangedFrames: number): number {
    const stages = Math.max(this.#chain.rememberingStages, this.#turn.rememberingStages);
    const start = memories.startFor(unchangedFrames, stages);
    if (!start?.recall) return 0;
    for (let index = 1; index * memories.spacingFrames <= start.recall.atFrame; index++) {
      const held = memories.get(index);
      if (held) this.memories.put(index, held);
    }
    this.#recall = start.recall;
    this.#chain.goOnAt(start.startFrame);
    this.#turn.goOnAt(start.startFrame);
    return start.startFrame;
  }

  /** The turn remembers: it must hear the source. */
  get hearsSource(): boolean {
    return this.#turn.rememberingStages > 0;
  }

  /**
   * Takes the next frames.
   * @param source the track before all of its chain, where something of it was rendered before `input`.
   */
  push(input: PlanarBlock, frames: number, source = input): void {
    for (let at = 0; at < frames;) {
      const count = Math.min(MAX_BLOCK_FRAMES, GRID_FRAMES - (this.#frame % GRID_FRAMES), frames - at);
      const part = (of: PlanarBlock): Float32Array[] => of.map((samples) => samples.subarray(at, at + count));
      this.#chain.locateStages((ago) => this.#frame - ago);
      this.#chain.process(part(input), this.#out, count);
      this.onOut?.(this.#out, count);
      if (this.hearsSource) this.#turn.process(part(source), this.#out, count);
      at += count;
      this.#frame += count;
      if (this.#frame % GRID_FRAMES === 0) this.#atGrid();
    }
  }

  #atGrid(): void {
    const frame = this.#frame;
    const { spacingFrames, stepFrames } = this.memories;
    const recall = this.#recall;
    if (recall?.nextFrame('chain', frame) === frame) recall.read('chain', frame, this.#chain);
    if (recall?.nextFrame('turn', frame) === frame) recall.read('turn', frame, this.#turn);
    const stages = Math.max(this.#chain.rememberingStages, this.#turn.rememberingStages);
    for (let stage = 0; stage < stages; stage++) {
      const index = (frame - stage * stepFrames) / spacingFrames;
      if (!Number.isInteger(index) || index < 1 || this.memories.get(index) || index * spacingFrames < this.#begun) continue;
      if (stage === 0) this.#taken.set(index, { chain: [], turn: [] });
      const taken = this.#taken.get(index);
      if (!taken) continue;
      if (stage < this.#chain.rememberingStages) taken.chain.push(this.#write((memory) => this.#chain.rememberStage(stage, memory)));
      if (stage < this.#turn.rememberingStages) taken.turn.push(this.#write((memory) => this.#turn.rememberStage(stage, memory)));
      if (stage < stages - 1) continue;
      this.#taken.delete(index);
      this.memories.put(index, taken satisfies Remembered);
    }
  }

  #write(say: (memory: Memory) => void): ArrayBuffer {
    const memory = new Memory();
    say(memory);
    return memory.bytes;
  }

  #bytes(): number {
    const memory = new Memory();
    for (let i = 0; i < this.#chain.rememberingStages; i++) this.#chain.rememberStage(i, memory);
    for (let i = 0; i < this.#turn.rememberingStages; i++) this.#turn.rememberStage(i, memory);
    return memory.bytes.byteLength;
  }
}
