import { Chain, createBlock, MAX_BLOCK_FRAMES, type ChainSpec, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, GRID_FRAMES, Memories, type Remembered, type Start } from '@euphonos/engine';
import { ArrangedReader, type TrackSound } from '../audio/arranged.js';
import type { SampleSource } from '../audio/samples.js';
import { leadFrames } from './lead.js';

/** Some of what a chain remembers, by index. */
export interface HeldMemories {
  readonly spacingFrames: number;
  readonly held: readonly (readonly [index: number, remembered: Remembered])[];
}

/**
 * The first part of a chain, rendered in chunks for the monitor: what cannot run in the audio clock. One chunk after
 * the other, so that the chain can go on from the one before. Runs in a worker.
 */
export class PreparedSound {
  readonly #reader: ArrangedReader;
  #key = '';
  /** The chain that goes on; exact when it began at the beginning, or from what is remembered. */
  #running: { chain: Chain; nextFrame: number; exact: boolean } | undefined;
  #memories: Memories | null = null;
  #last: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly kernels: KernelModule,
  ) {
    this.#reader = new ArrangedReader(source, undefined, undefined, kernels);
  }

  setSound(sound: TrackSound): void {
    this.#reader.set(sound);
  }

  /** What the chain of that key remembers of the track, or more of it: a chunk anywhere is then what a render makes. */
  remember(key: string, { spacingFrames, held }: HeldMemories): void {
    if (this.#memories?.key !== key || this.#memories.spacingFrames !== spacingFrames)
      this.#memories = new Memories(key, this.source.sampleRateHz, spacingFrames);
    for (const [index, remembered] of held) this.#memories.put(index, remembered);
  }

  /** Chunk `index` of the track through the chain. `key` names clips, chain and profile: another one starts anew. */
  chunk(key: string, spec: ChainSpec, noiseProfile: NoiseProfile | undefined, index: number): Promise<Float32Array[]> {
    const made = this.#last.catch(() => undefined).then(() => this.#make(key, spec, noiseProfile, index));
    this.#last = made;
    return made;
  }

  async #make(key: string, spec: ChainSpec, noiseProfile: NoiseProfile | undefined, index: number): Promise<Float32Array[]> {
    const { channelCount, sampleRateHz } = this.source;
    const { lengthFrames } = this.#reader;
    const start = index * CHUNK_FRAMES;
    const end = start + CHUNK_FRAMES;
    if (key !== this.#key) this.#running = undefined;
    this.#key = key;
    let run = this.#running;
    let from = start;
    let began: Start | null = null;
    if (!run || run.nextFrame !== start || !run.exact) {
      const memories = this.#memories?.key === key ? this.#memories : null;
      began = memories && memories.stages > 0 ? memories.startFor(start, memories.stages) : null;
      // Without what it should remember, one that goes on is better than one that begins here.
      if (began || run?.nextFrame !== start) {
        from = Math.max(0, Math.min(start - leadFrames(spec, sampleRateHz), began?.startFrame ?? Infinity));
        const chain = new Chain({ sampleRateHz, channels: channelCount, kernels: this.kernels, noiseProfile, startFrame: from }, spec);
        chain.goOnAt(from);
        run = { chain, nextFrame: start, exact: from === 0 || began !== null || chain.rememberingStages === 0 };
      }
    }
    const recall = began?.recall ?? null;
    // A chain that goes on has already heard its latency beyond the last chunk.
    const latency = run.chain.latencyFrames;
    const heardTo = from === start && start > 0 ? start + latency : from;
    const samples =
      heardTo < lengthFrames ? await this.#reader.read(heardTo, Math.min(lengthFrames, end + latency)) : createBlock(channelCount, 0);
    const result = createBlock(channelCount, CHUNK_FRAMES);
    const input = createBlock(channelCount, MAX_BLOCK_FRAMES);
    const output = createBlock(channelCount, MAX_BLOCK_FRAMES);
    // What is remembered is read on the grid.
    const most = recall ? GRID_FRAMES : MAX_BLOCK_FRAMES;
    for (let frame = heardTo; frame < end + latency; frame += most) {
      const frames = Math.min(most, end + latency - frame);
      if (recall?.nextFrame('chain', frame) === frame) recall.read('chain', frame, run.chain);
      for (let c = 0; c < channelCount; c++) {
        input[c]!.fill(0);
        input[c]!.set(samples[c]!.subarray(frame - heardTo, Math.min(samples[c]!.length, frame - heardTo + frames)));
      }
      run.chain.locateStages((ago) => frame - ago);
      run.chain.process(input, output, frames);
      const skip = Math.max(0, start + latency - frame);
      if (skip < frames)
        for (let c = 0; c < channelCount; c++) result[c]!.set(output[c]!.subarray(skip, frames), frame + skip - latency - start);
    }
    run.nextFrame = end;
    this.#running = run;
    return result;
  }
}
