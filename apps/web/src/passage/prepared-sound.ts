import { Chain, createBlock, MAX_BLOCK_FRAMES, type ChainSpec, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES } from '@euphonos/engine';
import { ArrangedReader, type TrackSound } from '../audio/arranged.js';
import type { SampleSource } from '../audio/samples.js';
import { leadFrames } from './lead.js';

/**
 * The first part of a chain, rendered in chunks for the monitor: what cannot run in the audio clock. One chunk after
 * the other, so that the chain can go on from the one before. Runs in a worker.
 */
export class PreparedSound {
  readonly #reader: ArrangedReader;
  #key = '';
  #running: { chain: Chain; nextFrame: number } | undefined;
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

  /** Chunk `index` of the track through the chain. `key` names clips, chain and profile: another one starts anew. */
  chunk(key: string, spec: ChainSpec, noiseProfile: NoiseProfile | undefined, index: number): Promise<Float32Array[]> {
    const made = this.#last.catch(() => undefined).then(() => this.#make(key, spec, noiseProfile, index));
    this.#last = made;
    return made;
  }

  async #make(key: string, spec: ChainSpec, noiseProfile: NoiseProfile | undefined, index: number): Promise<Float32Array[]> {
    const { channels, sampleRateHz } = this.source;
    const { lengthFrames } = this.#reader;
    const start = index * CHUNK_FRAMES;
    const end = start + CHUNK_FRAMES;
    if (key !== this.#key) this.#running = undefined;
    this.#key = key;
    let run = this.#running;
    let from = start;
    if (!run || run.nextFrame !== start) {
      from = Math.max(0, start - leadFrames(spec, sampleRateHz));
      run = {
        chain: new Chain({ sampleRateHz, channels: channels.length, kernels: this.kernels, noiseProfile, startFrame: from }, spec),
        nextFrame: start,
      };
    }
    // A chain that goes on has already heard its latency beyond the last chunk.
    const latency = run.chain.latencyFrames;
    const heardTo = from === start && start > 0 ? start + latency : from;
    const samples =
      heardTo < lengthFrames
        ? await this.#reader.read(heardTo, Math.min(lengthFrames, end + latency))
        : channels.map(() => new Float32Array(0));
    const result = createBlock(channels.length, CHUNK_FRAMES);
    const input = createBlock(channels.length, MAX_BLOCK_FRAMES);
    const output = createBlock(channels.length, MAX_BLOCK_FRAMES);
    for (let frame = heardTo; frame < end + latency; frame += MAX_BLOCK_FRAMES) {
      const frames = Math.min(MAX_BLOCK_FRAMES, end + latency - frame);
      for (let c = 0; c < channels.length; c++) {
        input[c]!.fill(0);
        input[c]!.set(samples[c]!.subarray(frame - heardTo, Math.min(samples[c]!.length, frame - heardTo + frames)));
      }
      run.chain.process(input, output, frames);
      const skip = Math.max(0, start + latency - frame);
      if (skip < frames)
        for (let c = 0; c < channels.length; c++) result[c]!.set(output[c]!.subarray(skip, frames), frame + skip - latency - start);
    }
    run.nextFrame = end;
    this.#running = run;
    return result;
  }
}
