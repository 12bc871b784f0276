import { memoryKey, needsProfile, type ChainSpec, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, firstChange, MemoryPass, splitChain, type Remembered } from '@euphonos/engine';
import { ArrangedReader, type TrackSound } from '../audio/arranged.js';
import type { SampleSource } from '../audio/samples.js';
import { PassedOn } from './passed-on.js';
import { PreparedSound, type HeldMemories } from './prepared-sound.js';

/** So long it works before it answers, ms: others wait for the same worker. */
export const SLICE_MS = 120;
/** So many are told at once: a message that the audio thread takes without a gap. */
const MOST_HELD = 64;

/** What is to be remembered: `key` names sound, chain and profile; another one is another pass. */
export interface MemoryRequest {
  readonly key: string;
  readonly sound: TrackSound;
  readonly whole: ChainSpec;
  readonly profile: NoiseProfile | null;
  /** Names what is rendered in the background of it. */
  readonly preparedKey: string;
}

/** What is not known yet: from which memories on, of the chain and of what is rendered in the background. */
export interface MemoryPlace {
  readonly index: number;
  readonly preparedIndex: number;
}

/** Some of what a chain remembers, by index; `nextFrame` is how far the pass has come. */
export interface MemoryNews extends HeldMemories {
  /** The same of what is rendered in the background, where that remembers. */
  readonly prepared: HeldMemories | null;
  readonly nextFrame: number;
  /** The pass is over; `done` when all of it was told, too. */
  readonly passed: boolean;
  readonly done: boolean;
}

interface Running {
  readonly request: MemoryRequest;
  readonly pass: MemoryPass;
  /** Of what is rendered in the background; null where that remembers nothing. */
  readonly preparedPass: MemoryPass | null;
  /** A piece of what `pass` hears; of the track before its chain. */
  readonly chunk: (index: number) => Promise<Float32Array[]>;
  readonly source: (index: number) => Promise<Float32Array[]>;
  readonly lengthFrames: number;
}

/**
 * What a chain remembers of a track, learnt in one pass over it, in pieces. After an edit the pass goes on from the place where
 * the clips differ. Runs in a worker.
 */
export class ChainMemory {
  #running: Running | null = null;
  #last: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly kernels: KernelModule,
  ) {}

  /** Works for a moment on what is asked for; tells what is known from a place on. One question after the other. */
  next(request: MemoryRequest, from: MemoryPlace): Promise<MemoryNews> {
    const answer = this.#last.catch(() => undefined).then(() => this.#next(request, from));
    this.#last = answer;
    return answer;
  }

  async #next(request: MemoryRequest, from: MemoryPlace): Promise<MemoryNews> {
    if (this.#running?.request.key !== request.key) this.#running = this.#begin(request);
    const { pass, preparedPass, chunk, source, lengthFrames } = this.#running;
    const until = performance.now() + SLICE_MS;
    while (pass.nextFrame < lengthFrames && performance.now() < until) {
      const index = Math.floor(pass.nextFrame / CHUNK_FRAMES);
      // The source first: what is passed on goes on with each call, and must not be lost to a line that breaks.
      const before = pass.hearsSource ? await source(index) : null;
      const samples = await chunk(index);
      const skip = pass.nextFrame - index * CHUNK_FRAMES;
      const rest = (of: readonly Float32Array[]): Float32Array[] => of.map((channel) => channel.subarray(skip));
      pass.push(rest(samples), CHUNK_FRAMES - skip, rest(before ?? samples));
    }
    const live = heldFrom(pass, from.index);
    const prepared = preparedPass && heldFrom(preparedPass, from.preparedIndex);
    const passed = pass.nextFrame >= lengthFrames;
    const done = passed && live.all && prepared?.all !== false;
    return { ...live.news, prepared: prepared && prepared.news, nextFrame: pass.nextFrame, passed, done };
  }

  #begin(request: MemoryRequest): Running {
    const { sampleRateHz, channelCount } = this.source;
    const { whole, profile, sound } = request;
    const { live, prepared } = splitChain(whole);
    const reader = new ArrangedReader(this.source, sound, undefined, this.kernels);
    const before = this.#unchanged(request);
    const context = { sampleRateHz, channels: channelCount, kernels: this.kernels, noiseProfile: profile ?? undefined };
    const pass = new MemoryPass(context, live, whole, reader.lengthFrames, memoryKey(whole), before);
    const lengthFrames = reader.lengthFrames;
    const source = (index: number): Promise<Float32Array[]> => reader.chunk(index);
    let chunk = source;
    if (memoryKey(prepared) !== '') {
      const made = new PassedOn(context, prepared, lengthFrames, request.preparedKey, chunk);
      return { request, pass, preparedPass: made.pass, chunk: () => made.next(), source, lengthFrames };
    }
    if (prepared.treatments.length > 0) {
      const rendered = new PreparedSound(this.source, this.kernels);
      rendered.setSound(sound);
      chunk = (index) => rendered.chunk(request.key, prepared, profile ?? undefined, index);
    }
    return { request, pass, preparedPass: null, chunk, source, lengthFrames };
  }

  /** What is known already, where only clips are others. */
  #unchanged({ whole, profile, sound }: MemoryRequest): ConstructorParameters<typeof MemoryPass>[5] {
    const last = this.#running;
    // What is rendered before, and remembers, begins at the beginning.
    if (!last || memoryKey(splitChain(whole).prepared) !== '') return undefined;
    const { request } = last;
    const sameProfile = !whole.treatments.some(needsProfile) || sameNoise(request.profile, profile);
    // What is rendered before reaches back over the joints, and what has times of its own moves with them: both begin anew.
    if (JSON.stringify(request.whole) !== JSON.stringify(whole) || !sameProfile) return undefined;
    if (JSON.stringify(request.sound.roomTone) !== JSON.stringify(sound.roomTone)) return undefined;
    const from = firstChange(request.sound.clips, sound.clips, this.source.sampleRateHz, this.source.lengthFrames);
    const reach = splitChain(whole).prepared.treatments.length > 0 ? 2 * this.source.sampleRateHz : 0;
    return { memories: last.pass.memories, unchangedFrames: Math.min(from - reach, last.pass.nextFrame) };
  }
}

/** What a pass has learnt, from a place on, and whether that is all there is. */
export function heldFrom({ memories }: MemoryPass, fromIndex: number): { readonly news: HeldMemories; readonly all: boolean } {
  const held: [number, Remembered][] = [];
  for (let index = fromIndex, found; held.length < MOST_HELD && (found = memories.get(index)); index++) held.push([index, found]);
  return { news: { spacingFrames: memories.spacingFrames, held }, all: held.length < MOST_HELD };
}

const sameNoise = (a: NoiseProfile | null, b: NoiseProfile | null): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);
