import { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, LEVEL_RATIO, levelOffset, type LevelTrack } from '@euphonos/dsp';
import { reelFrames, type Reel } from '@euphonos/engine';
import { fetchBytes } from '../api/client.js';
import { peaksPath } from './peaks-path.js';

/** From an hour on, levels are read four times as coarse. */
const LONG_SECONDS = 3600;

/**
 * The level of a reel over time, from the peaks that the server has of its recordings: steps of 5 ms, of long ones of 21 ms. Between
 * recordings there is nothing. They lie at multiples of both steps.
 */
export async function fetchLevels(reel: Reel, sampleRateHz: number, allChannels: ReadonlyMap<string, number>): Promise<LevelTrack> {
  const lengthFrames = reelFrames(reel);
  const level = lengthFrames > LONG_SECONDS * sampleRateHz ? 1 : 0;
  const stepFrames = BUCKET_FRAMES * LEVEL_RATIO ** level;
  const meanSquares = new Float32Array(Math.ceil(lengthFrames / stepFrames));
  const bytes = BUCKET_VALUES * 4;
  await Promise.all(
    reel.map(async (part) => {
      const { startFrame, frames } = part;
      const first = levelOffset(frames, level);
      const count = bucketCount(frames, level);
      const buckets = new Float32Array(
        await fetchBytes(peaksPath(part, allChannels.get(part.recordingId)), first * bytes, (first + count) * bytes),
      );
      const at = Math.round(startFrame / stepFrames);
      for (let i = 0; i < count; i++) meanSquares[at + i] = buckets[i * BUCKET_VALUES + 2]!;
    }),
  );
  return { stepSeconds: stepFrames / sampleRateHz, meanSquares };
}
