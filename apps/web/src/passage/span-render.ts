import { MAX_BLOCK_FRAMES, SoundMeasure, withoutDeep, type KernelModule, type NoiseProfile } from '@euphonos/dsp';
import { runThrough, type Span } from '@euphonos/engine';
import { addUp, MixedSum, NO_GAIN, recordedChunks, type WholeMix } from './mixed-sum.js';
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
  const sound =
    which === 'source' ? await addUp(mix.tracks, channels, startFrame, endFrame, recordedChunks(kernels), NO_GAIN) : await result();
  const measure = new SoundMeasure(kernels, sampleRateHz, channels);
  for (let at = 0; at < endFrame - startFrame; at += MAX_BLOCK_FRAMES) {
    const block = sound.map((samples) => samples.subarray(at, at + MAX_BLOCK_FRAMES));
    measure.process(block, block[0]!.length);
  }
  const { integratedLufs, truePeakDbtp } = measure.finish();
  return { channels: sound, lufs: integratedLufs, truePeakDbtp };
}
