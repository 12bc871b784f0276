import { createBlock, MAX_BLOCK_FRAMES, SoundMeasure, withoutDeep, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { CHUNK_FRAMES, runThrough, type Span } from '@euphonos/engine';
import { ArrangedReader } from '../audio/arranged.js';
import { MixedSum, type WholeMix } from './mixed-sum.js';
import type { RestSound } from './rest-sound.js';

/** The chain on the whole hears so much before the span: what it follows has settled by then. */
const LEAD_SECONDS = 10;

/** A span of a mix as sound, and how loud it is; null for silence. */
export interface SpanSound {
  readonly channels: Float32Array[];
  readonly lufs: number | null;
  readonly truePeakDbtp: number | null;
}

/** A span of a mix, as it was recorded (without levels, as loudness before is) or through everything. Runs in a worker. */
export async function renderSpan(
  kernels: KernelModule,
  rest: RestSound,
  mix: WholeMix,
  { startFrame, endFrame }: Span,
  which: 'source' | 'result',
  noiseProfile?: NoiseProfile,
): Promise<SpanSound> {
  const { channels, sampleRateHz, chain } = mix;
  const result = async (): Promise<Float32Array[]> => {
    const lead = Math.max(0, Math.round(startFrame - LEAD_SECONDS * sampleRateHz));
    const sum = await new MixedSum(rest).read(mix, lead, endFrame);
    const context = { kernels, sampleRateHz, channels, startFrame: lead, ...(noiseProfile && { noiseProfile }) };
    return runThrough(context, withoutDeep(chain), sum).map((samples) => samples.slice(startFrame - lead));
  };
  const sound = which === 'source' ? await recorded(kernels, mix, startFrame, endFrame) : await result();
  const measure = new SoundMeasure(kernels, sampleRateHz, channels);
  for (let at = 0; at < endFrame - startFrame; at += MAX_BLOCK_FRAMES) {
    const block = sound.map((samples) => samples.subarray(at, at + MAX_BLOCK_FRAMES));
    measure.process(block, block[0]!.length);
  }
  const { integratedLufs, truePeakDbtp } = measure.finish();
  return { channels: sound, lufs: integratedLufs, truePeakDbtp };
}

/** All tracks together as they were recorded. */
async function recorded(
  kernels: KernelModule,
  { tracks, channels }: WholeMix,
  startFrame: number,
  endFrame: number,
): Promise<Float32Array[]> {
  const sum = createBlock(channels, endFrame - startFrame);
  for (const { track } of tracks) {
    const reader = new ArrangedReader(track.source, track.sound, undefined, kernels);
    for (let index = Math.floor(startFrame / CHUNK_FRAMES); index * CHUNK_FRAMES < endFrame; index++) {
      const chunk = await reader.chunk(index);
      const first = Math.max(startFrame, index * CHUNK_FRAMES);
      const last = Math.min(endFrame, (index + 1) * CHUNK_FRAMES);
      sum.forEach((to, c) => {
        const from = chunk[c] ?? chunk[0]!;
        for (let frame = first; frame < last; frame++) to[frame - startFrame]! += from[frame - index * CHUNK_FRAMES] ?? 0;
      });
    }
  }
  return sum;
}
