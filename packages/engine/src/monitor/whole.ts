import {
  Chain,
  copyFrames,
  createBlock,
  DelayLine,
  memoryKey,
  withoutDeep,
  type ChainSpec,
  type PlanarBlock,
  type ProcessorContext,
} from '@euphonos/dsp';
import type { Memories, Recall, Start } from './memories.js';
import type { Timeline } from './timeline.js';
import { QUANTUM_FRAMES } from './voice.js';

/**
 * What happens to the sum of all tracks: the chain on the whole. Source and the track's own result are held back by its
 * latency, so that the lanes stay aligned.
 */
export class Whole {
  readonly latencyFrames: number;
  readonly dry: Float32Array[];
  readonly own: Float32Array[];
  readonly mix: Float32Array[];
  readonly #chain: Chain;
  readonly #dryLines: DelayLine[];
  readonly #ownLines: DelayLine[];
  #spec: ChainSpec;
  #recall: Recall | null = null;
  #exact = true;
  /** The key of its chain when it started: what was heard with other values is remembered too. */
  #startedAs = '';
  #position = 0;
  readonly #frameAgo = (frames: number): number => this.timeline.frameAt(this.#position - frames);

  constructor(
    context: ProcessorContext,
    spec: ChainSpec,
    private readonly timeline: Timeline,
    /** How many channels the track at work has; the sum may have more. */
    ownChannels = context.channels,
  ) {
    this.#spec = withoutDeep(spec);
    this.#chain = new Chain(context, this.#spec);
    this.latencyFrames = this.#chain.latencyFrames;
    const block = (channels = ownChannels): Float32Array[] => createBlock(channels, QUANTUM_FRAMES);
    const lines = (): DelayLine[] => Array.from({ length: ownChannels }, () => new DelayLine(this.latencyFrames));
    [this.dry, this.own, this.mix] = [block(), block(), block(context.channels)];
    [this.#dryLines, this.#ownLines] = [lines(), lines()];
  }

  /** Nothing is done to the whole. */
  get plain(): boolean {
    return this.#spec.treatments.every(({ bypassed }) => bypassed === true);
  }

  /** What it remembers is what a render remembers there. */
  get exact(): boolean {
    return this.#chain.rememberingStages === 0 || (this.#exact && this.#startedAs === memoryKey(this.#spec));
  }

  setParameters(spec: ChainSpec): boolean {
    const known = withoutDeep(spec);
    if (!this.#chain.setParameters(known)) return false;
    this.#spec = known;
    return true;
  }

  /** From where it starts, so that it is right at a frame: from what it remembers, where that is known. */
  startFor(frame: number, memories: Memories | null): Start | null {
    if (memories?.key !== memoryKey(this.#spec)) return null;
    return memories.startFor(frame + this.latencyFrames, this.#chain.rememberingStages);
  }

  /** Forgets what it heard; what comes next is the sum at `frame`. */
  startAt(frame: number, recall: Recall | null): void {
    this.#chain.reset();
    for (const line of [...this.#dryLines, ...this.#ownLines]) line.reset();
    this.#recall = recall;
    this.#exact = recall !== null || frame <= 0;
    this.#startedAs = memoryKey(this.#spec);
    if (frame >= 0) this.#chain.goOnAt(frame);
  }

  /** One quantum at a position: source, the track's result, and that of all tracks. What comes out stands in `dry`, `own` and `mix`. */
  process(position: number, dry: PlanarBlock, own: PlanarBlock, mix: PlanarBlock): void {
    hold(this.#dryLines, dry, this.dry);
    hold(this.#ownLines, own, this.own);
    const frame = this.timeline.frameAt(position);
    if (this.#recall?.nextFrame('chain', frame) === frame) this.#recall.read('chain', frame, this.#chain);
    this.#position = position;
    this.#chain.locateStages(this.#frameAgo);
    this.#chain.process(mix, this.mix, QUANTUM_FRAMES);
  }
}

function hold(lines: readonly DelayLine[], from: PlanarBlock, to: PlanarBlock): void {
  for (let c = 0; c < lines.length; c++) {
    const line = lines[c]!;
    line.push(from[c]!, 0, QUANTUM_FRAMES);
    copyFrames(line.samples, 0, to[c]!, 0, QUANTUM_FRAMES);
    line.shift(QUANTUM_FRAMES);
  }
}
