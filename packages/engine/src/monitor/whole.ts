import { Chain, copyFrames, createBlock, withoutDeep, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { DelayLine } from '@euphonos/dsp';
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

  constructor(
    context: Omit<ProcessorContext, 'noiseProfile'>,
    readonly spec: ChainSpec,
    /** How many channels the track at work has; the sum may have more. */
    ownChannels = context.channels,
  ) {
    this.#chain = new Chain(context, withoutDeep(spec));
    this.latencyFrames = this.#chain.latencyFrames;
    const block = (channels = ownChannels): Float32Array[] => createBlock(channels, QUANTUM_FRAMES);
    const lines = (): DelayLine[] => Array.from({ length: ownChannels }, () => new DelayLine(this.latencyFrames));
    [this.dry, this.own, this.mix] = [block(), block(), block(context.channels)];
    [this.#dryLines, this.#ownLines] = [lines(), lines()];
  }

  /** Nothing is done to the whole. */
  get plain(): boolean {
    return this.spec.treatments.every(({ bypassed }) => bypassed === true);
  }

  setParameters(spec: ChainSpec): boolean {
    return this.#chain.setParameters(withoutDeep(spec));
  }

  reset(): void {
    this.#chain.reset();
    for (const line of [...this.#dryLines, ...this.#ownLines]) line.reset();
  }

  /** One quantum: source, the track's result, and that of all tracks. What comes out stands in `dry`, `own` and `mix`. */
  process(dry: PlanarBlock, own: PlanarBlock, mix: PlanarBlock): void {
    hold(this.#dryLines, dry, this.dry);
    hold(this.#ownLines, own, this.own);
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
