import type { PlanarBlock } from '../processor.js';

/**
 * The frame nearest to `at` before which the channels together change their sign; `at` itself when there is none within
 * `reach` frames. An edge that is put there meets what follows near zero.
 */
export function nearestZeroCrossing(channels: PlanarBlock, at: number, reach: number): number {
  const length = channels[0]?.length ?? 0;
  const value = (frame: number): number => channels.reduce((sum, samples) => sum + samples[frame]!, 0);
  const crosses = (frame: number): boolean => frame > 0 && frame < length && value(frame) >= 0 !== value(frame - 1) >= 0;
  for (let distance = 0; distance <= reach; distance++) {
    if (crosses(at - distance)) return at - distance;
    if (crosses(at + distance)) return at + distance;
  }
  return at;
}
