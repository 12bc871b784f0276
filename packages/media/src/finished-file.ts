import { stat } from 'node:fs/promises';
import { powerToDb, SoundMeasure, type KernelModule, type SoundFigures } from '@euphonos/dsp';
import { NO_EDGES, type Edges, type FileFacts } from '@euphonos/engine';
import { decodeSound, newReport } from './decode.js';
import { edgeFrames } from './edges.js';
import { probeSound } from './probe.js';
import { probeJson } from './tools.js';

export interface FinishedFile {
  readonly figures: SoundFigures;
  readonly facts: FileFacts;
  /** Short-term loudness every 100 ms from 3 s on, LUFS. */
  readonly loudness: readonly number[];
}

const AWAY_SECONDS = 0.03;

/** Level of a span of what is decoded. */
class PowerOf {
  #sum = 0;
  #samples = 0;

  constructor(
    private readonly start: number,
    private readonly end: number,
  ) {}

  add(channels: readonly Float32Array[], from: number, frames: number): void {
    for (let n = Math.max(from, this.start); n < Math.min(this.end, from + frames); n++)
      for (const samples of channels) {
        this.#sum += samples[n - from]! ** 2;
        this.#samples++;
      }
  }

  /** null of silence, and of nothing. */
  get dbfs(): number | null {
    return this.#sum > 0 ? powerToDb(this.#sum / this.#samples) : null;
  }
}

/** Bits of a sample as the file has them; null of formats without. */
async function bitsOfFile(path: string): Promise<number | null> {
  const show = ['-show_entries', 'stream=codec_name,bits_per_sample,bits_per_raw_sample', '-select_streams', 'a:0'];
  const {
    streams: [stream],
  } = await probeJson<{ readonly streams: readonly Record<string, unknown>[] }>(path, show);
  const stated = Number(stream?.['bits_per_sample']) || Number(stream?.['bits_per_raw_sample']);
  return stated > 0 ? stated : null;
}

/**
 * Decodes a file that was written and measures what comes out. MP4 says where its sound ends, and ffmpeg's decoder hands over the last block whole:
 * what lies behind `frames` is not looked at.
 */
export async function measureFinished(
  path: string,
  frames: number,
  kernels: KernelModule,
  { head, tail }: Edges = NO_EDGES,
): Promise<FinishedFile> {
  const facts = await probeSound(path);
  const measure = new SoundMeasure(kernels, facts.sampleRateHz, facts.channels);
  const [headFrames, tailFrames] = [edgeFrames(head, facts.sampleRateHz), edgeFrames(tail, facts.sampleRateHz)];
  // A little away from the joints, where coding with loss rings.
  const away = Math.round(AWAY_SECONDS * facts.sampleRateHz);
  const edges = [new PowerOf(0, headFrames - away), new PowerOf(frames - tailFrames + away, frames)] as const;
  let done = 0;
  for await (const block of decodeSound(path, facts, {}, newReport())) {
    const count = facts.format.includes('mp4') ? Math.min(block.frames, frames - done) : block.frames;
    if (count > 0)
      measure.process(
        block.channels.map((samples) => samples.subarray(0, count)),
        count,
      );
    for (const edge of edges) edge.add(block.channels, done, count);
    done += count;
  }
  const figures = measure.finish();
  const { size } = await stat(path);
  return {
    figures,
    facts: {
      sampleRateHz: facts.sampleRateHz,
      channels: facts.channels,
      bits: await bitsOfFile(path),
      kbps: figures.durationSeconds > 0 ? (8 * size) / 1000 / figures.durationSeconds : null,
      ...(head || tail ? { edgesDbfs: [edges[0].dbfs, edges[1].dbfs] as const } : {}),
    },
    loudness: measure.loudness.shortTermHistoryLufs,
  };
}
