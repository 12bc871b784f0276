import {
  Chain,
  copyFrames,
  createBlock,
  DelayLine,
  Turn,
  MAX_BLOCK_FRAMES,
  type ChainSpec,
  type PlanarBlock,
  type Processor,
  type ProcessorContext,
} from '@euphonos/dsp';

/** Takes what comes out: the processed frames and, aligned to the sample, the frames that went in (turned, where a turn was given). */
export type Sink = (processed: PlanarBlock, source: PlanarBlock, frames: number) => void;

/**
 * Runs a processor over a stream from its first to its last frame: what comes out has exactly the length of
 * what goes in, aligned to the sample. The blocks handed to the sink are used again afterwards.
 */
export class AlignedRun {
  readonly #in: Float32Array[];
  readonly #out: Float32Array[];
  readonly #source: DelayLine[];
  readonly #turned: Float32Array[];
  /** Holds back what is made, where the turn is later than that. */
  readonly #made: DelayLine[] | null;
  readonly #latency: number;
  #toSkip: number;

  constructor(
    private readonly processor: Processor,
    channels: number,
    private readonly sink: Sink,
    /** What the source is handed over through. */
    private readonly turn: Processor | null = null,
  ) {
    const turnFrames = turn?.latencyFrames ?? 0;
    this.#latency = Math.max(processor.latencyFrames, turnFrames);
    this.#toSkip = this.#latency;
    this.#in = createBlock(channels, MAX_BLOCK_FRAMES);
    this.#out = createBlock(channels, MAX_BLOCK_FRAMES);
    this.#turned = turn ? createBlock(channels, MAX_BLOCK_FRAMES) : this.#in;
    const lines = (frames: number) => this.#in.map(() => new DelayLine(frames));
    this.#source = lines(this.#latency - turnFrames);
    this.#made = this.#latency > processor.latencyFrames ? lines(this.#latency - processor.latencyFrames) : null;
  }

  /** Takes any number of frames. */
  push(input: PlanarBlock, frames: number): void {
    for (let from = 0; from < frames; from += MAX_BLOCK_FRAMES) {
      const count = Math.min(MAX_BLOCK_FRAMES, frames - from);
      for (let c = 0; c < this.#in.length; c++) copyFrames(input[c]!, from, this.#in[c]!, 0, count);
      this.#run(count);
    }
  }

  /** Hands over the frames that are still inside. Call once. */
  finish(): void {
    for (const samples of this.#in) samples.fill(0);
    for (let left = this.#latency; left > 0; left -= MAX_BLOCK_FRAMES) this.#run(Math.min(left, MAX_BLOCK_FRAMES));
  }

  #run(frames: number): void {
    this.turn?.process(this.#in, this.#turned, frames);
    for (let c = 0; c < this.#in.length; c++) this.#source[c]!.push(this.#turned[c]!, 0, frames);
    this.processor.process(this.#in, this.#out, frames);
    if (this.#made) for (let c = 0; c < this.#in.length; c++) this.#made[c]!.push(this.#out[c]!, 0, frames);
    const skip = Math.min(this.#toSkip, frames);
    this.#toSkip -= skip;
    if (skip < frames)
      this.sink(
        (this.#made ? this.#made.map(({ samples }) => samples) : this.#out).map((samples) => samples.subarray(skip)),
        this.#source.map(({ samples }) => samples.subarray(skip)),
        frames - skip,
      );
    for (const line of this.#source) line.shift(frames);
    if (this.#made) for (const line of this.#made) line.shift(frames);
  }
}

/** A run of a whole chain; the source as it is. */
export const chainRun = (context: ProcessorContext, spec: ChainSpec, sink: Sink): AlignedRun =>
  new AlignedRun(new Chain(context, spec), context.channels, sink);

/** A run of a whole chain beside the source turned alike: source - processed is what was taken out. */
export const comparedRun = (context: ProcessorContext, spec: ChainSpec, sink: Sink): AlignedRun =>
  new AlignedRun(new Chain(context, spec), context.channels, sink, new Turn(context, spec));
