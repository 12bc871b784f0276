import { memoryKey, withoutDeep, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, MemoryPass } from '@euphonos/engine';
import { heldFrom, SLICE_MS, type MemoryNews, type MemoryPlace } from './chain-memory.js';
import { MixedSum, type WholeMix } from './mixed-sum.js';
import { RestSound } from './rest-sound.js';

/** What the chain on the whole is to remember: `key` names all that sounds in the mix, the chain and the profile. */
export interface WholeRequest {
  readonly key: string;
  readonly mix: WholeMix;
  readonly profile: NoiseProfile | null;
}

/** What the chain on the whole remembers of the sum of all tracks, learnt in one pass over it, in pieces. Runs in a worker. */
export class WholeMemory {
  readonly #sum: MixedSum;
  #running: { readonly request: WholeRequest; readonly pass: MemoryPass } | null = null;
  #last: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly kernels: KernelModule,
    rest = new RestSound(kernels),
  ) {
    this.#sum = new MixedSum(rest);
  }

  /** Works for a moment on what is asked for; tells what is known from a place on. One question after the other. */
  next(request: WholeRequest, from: MemoryPlace): Promise<MemoryNews> {
    const answer = this.#last.catch(() => undefined).then(() => this.#next(request, from));
    this.#last = answer;
    return answer;
  }

  async #next(request: WholeRequest, from: MemoryPlace): Promise<MemoryNews> {
    if (this.#running?.request.key !== request.key) this.#running = { request, pass: this.#begin(request) };
    const { pass } = this.#running;
    const { lengthFrames } = request.mix;
    const until = performance.now() + SLICE_MS;
    while (pass.nextFrame < lengthFrames && performance.now() < until)
      pass.push(await this.#sum.read(request.mix, pass.nextFrame, pass.nextFrame + CHUNK_FRAMES), CHUNK_FRAMES);
    const passed = pass.nextFrame >= lengthFrames;
    const { news, all } = heldFrom(pass, from.index);
    return { ...news, prepared: null, nextFrame: pass.nextFrame, passed, done: passed && all };
  }

  #begin({ mix: { chain, channels, sampleRateHz, lengthFrames }, profile }: WholeRequest): MemoryPass {
    const spec = withoutDeep(chain);
    const context = { sampleRateHz, channels, kernels: this.kernels, ...(profile && { noiseProfile: profile }) };
    // The source is not turned as the whole turns it: the lanes are of one track.
    return new MemoryPass(context, spec, { treatments: [] }, lengthFrames, memoryKey(spec));
  }
}
