import { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, LEVEL_RATIO, levelOffset, peakLevelCount } from '@euphonos/dsp';
import type { ReelPart } from '@euphonos/engine';
import { useEffect, useState } from 'react';
import { fetchBytes } from '../../../api/client.js';
import type { PartLevels } from '../../../drawing/draw-lane.js';
import { peaksPath } from '../../../passage/peaks-path.js';
import { useApp } from '../../../store/store.js';

/** As fine as a lane can show: more than this many steps a recording are not fetched. */
const LEAST_STEPS = 1200;

/** Fetched once a recording and channel, however often lanes come and go. */
const fetched = new Map<string, Promise<Omit<PartLevels, 'part'>>>();

function levelsOf(part: ReelPart, channels: number | undefined): Promise<Omit<PartLevels, 'part'>> {
  const path = peaksPath(part, channels);
  const known = fetched.get(path);
  if (known) return known;
  let level = peakLevelCount(part.frames) - 1;
  while (level > 0 && bucketCount(part.frames, level) < LEAST_STEPS) level--;
  const first = levelOffset(part.frames, level);
  const bytes = BUCKET_VALUES * 4;
  const made = fetchBytes(path, first * bytes, (first + bucketCount(part.frames, level)) * bytes).then((bytes) => {
    const buckets = new Float32Array(bytes);
    const squares = new Float32Array(buckets.length / BUCKET_VALUES);
    for (let i = 0; i < squares.length; i++) squares[i] = buckets[i * BUCKET_VALUES + 2]!;
    return { stepFrames: BUCKET_FRAMES * LEVEL_RATIO ** level, squares };
  });
  fetched.set(path, made);
  made.catch(() => fetched.delete(path));
  return made;
}

/** What a lane shows of its recordings; those that have not come yet are missing. */
export function useLanePeaks(reel: readonly ReelPart[]): readonly PartLevels[] {
  const recordings = useApp(({ session }) => session!.recordings);
  const [levels, setLevels] = useState<readonly PartLevels[]>([]);
  useEffect(() => {
    let wanted = true;
    setLevels([]);
    for (const part of reel)
      levelsOf(part, recordings.find(({ id }) => id === part.recordingId)?.facts?.channels).then(
        (found) => wanted && setLevels((list) => [...list, { part, ...found }]),
        () => undefined,
      );
    return () => void (wanted = false);
    // Recordings of a reel do not change their channels.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [reel]);
  return levels;
}
