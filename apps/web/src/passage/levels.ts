import { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, LEVEL_RATIO, levelOffset, type LevelTrack } from '@euphonos/dsp';
import { fetchBytes } from '../api/client.js';

/** From an hour on, levels are read four times as coarse. */
const LONG_SECONDS = 3600;

/** The level of a recording over time, from the peaks that the server has of it: steps of 5 ms, of long ones of 21 ms. */
export async function fetchLevels(recordingId: string, lengthFrames: number, sampleRateHz: number): Promise<LevelTrack> {
  const level = lengthFrames > LONG_SECONDS * sampleRateHz ? 1 : 0;
  const bytes = BUCKET_VALUES * 4;
  const first = levelOffset(lengthFrames, level);
  const buckets = new Float32Array(
    await fetchBytes(`${recordingId}/peaks`, first * bytes, (first + bucketCount(lengthFrames, level)) * bytes),
  );
  return {
    stepSeconds: (BUCKET_FRAMES * LEVEL_RATIO ** level) / sampleRateHz,
    meanSquares: Float32Array.from({ length: buckets.length / BUCKET_VALUES }, (_, i) => buckets[i * BUCKET_VALUES + 2]!),
  };
}
