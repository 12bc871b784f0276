import { CHUNK_FRAMES } from '@euphonos/engine';
import { fetchBytes } from '../api/client.js';

/** Where samples are fetched from. */
export interface SampleSource {
  readonly recordingId: string;
  readonly channels: readonly number[];
  readonly lengthFrames: number;
}

export const chunkCount = ({ lengthFrames }: SampleSource): number => Math.ceil(lengthFrames / CHUNK_FRAMES);

/** Frames [startFrame, endFrame) of the source's channels; the span must lie in the recording. */
export function fetchFrames({ recordingId, channels }: SampleSource, startFrame: number, endFrame: number): Promise<Float32Array[]> {
  return Promise.all(
    channels.map(async (channel) => new Float32Array(await fetchBytes(`${recordingId}/channels/${channel}`, startFrame * 4, endFrame * 4))),
  );
}

/** One chunk for the monitor, filled up with silence at the end of the recording. */
export async function fetchChunk(source: SampleSource, index: number): Promise<Float32Array[]> {
  const start = index * CHUNK_FRAMES;
  const end = Math.min(source.lengthFrames, start + CHUNK_FRAMES);
  const samples = await fetchFrames(source, start, end);
  return samples.map((part) => {
    if (part.length === CHUNK_FRAMES) return part;
    const whole = new Float32Array(CHUNK_FRAMES);
    whole.set(part);
    return whole;
  });
}
