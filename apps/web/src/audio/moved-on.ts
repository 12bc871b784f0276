import type { Span } from '@euphonos/engine';

/** A report is moved on by the audio clock for so long; reports come every 32 ms, so a longer silence means that nothing sounds. */
const MOST_MOVED_ON_SECONDS = 0.25;

/** The frame that sounds so long after a report of it, round a loop. */
export function movedOn(reported: number, lateSeconds: number, sampleRateHz: number, loop: Span | null): number {
  const frame = reported + Math.round(Math.min(lateSeconds, MOST_MOVED_ON_SECONDS) * sampleRateHz);
  if (loop && reported < loop.endFrame && frame >= loop.endFrame)
    return loop.startFrame + ((frame - loop.startFrame) % (loop.endFrame - loop.startFrame));
  return Math.max(0, frame);
}
