import { copyFrames, createBlock, type ChainSpec, type ProcessorContext } from '@euphonos/dsp';
import { CHUNK_FRAMES, MemoryPass } from '@euphonos/engine';

/** A pass over a track whose sound is passed on, in time, chunk by chunk: what comes after it hears it. */
export class PassedOn {
  readonly pass: MemoryPass;
  readonly #made: Float32Array[];
  #madeFrames = 0;
  #toSkip: number;

  constructor(
    context: ProcessorContext,
    spec: ChainSpec,
    lengthFrames: number,
    key: string,
    private readonly chunk: (index: number) => Promise<Float32Array[]>,
  ) {
    this.pass = new MemoryPass(context, spec, { treatments: [] }, lengthFrames, key, undefined, (out, frames) => {
      const skip = Math.min(this.#toSkip, frames);
      this.#toSkip -= skip;
      for (let c = 0; c < this.#made.length; c++) copyFrames(out[c]!, skip, this.#made[c]!, this.#madeFrames, frames - skip);
      this.#madeFrames += frames - skip;
    });
    this.#toSkip = this.pass.latencyFrames;
    this.#made = createBlock(context.channels, 3 * CHUNK_FRAMES);
  }

  /** The next chunk of what is passed on. */
  async next(): Promise<Float32Array[]> {
    while (this.#madeFrames < CHUNK_FRAMES) this.pass.push(await this.chunk(Math.floor(this.pass.nextFrame / CHUNK_FRAMES)), CHUNK_FRAMES);
    const chunk = this.#made.map((samples) => samples.slice(0, CHUNK_FRAMES));
    for (const samples of this.#made) samples.copyWithin(0, CHUNK_FRAMES, this.#madeFrames);
    this.#madeFrames -= CHUNK_FRAMES;
    return chunk;
  }
}
