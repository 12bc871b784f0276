import { likeness, type PlanarBlock } from '@euphonos/dsp';
import type { Span } from '../document/span.js';

/** What is compared on either side of a joint, and how far the end of a cut may go for it: a period of 50 Hz. */
const COMPARE_SECONDS = 0.04;
const REACH_SECONDS = 0.01;
const STEP_FRAMES = 4;
const NEARER = 0.01;

/**
 * Cuts whose ends go to where the sound goes on best: a hum that keeps its phase over the joint goes on being notched,
 * where a jump of its phase would make every narrow filter ring. Spans stay in their order; the sound is read as it comes in.
 * @param read frames [from, to) before the chain
 */
export async function alignCuts(
  spans: readonly Span[],
  read: (from: number, to: number) => Promise<PlanarBlock>,
  sampleRateHz: number,
  lengthFrames: number,
): Promise<Span[]> {
  const reach = Math.round(REACH_SECONDS * sampleRateHz);
  const half = Math.round((COMPARE_SECONDS * sampleRateHz) / 2);
  const aligned: Span[] = [];
  for (const span of spans) {
    const { startFrame, endFrame } = span;
    const fits = startFrame >= half && endFrame + reach + half <= lengthFrames && endFrame - startFrame > 2 * (reach + half);
    if (!fits) {
      aligned.push(span);
      continue;
    }
    const [[before], [after]] = await Promise.all([
      read(startFrame - half, startFrame + half),
      read(endFrame - reach - half, endFrame + reach + half),
    ]);
    let best = reach;
    let most = -Infinity;
    for (let shift = 0; shift <= 2 * reach; shift += STEP_FRAMES) {
      // Of places that are as good the nearest.
      const like = likeness(before!, 0, after!, shift, 2 * half) - (NEARER * Math.abs(shift - reach)) / reach;
      if (like > most) [best, most] = [shift, like];
    }
    aligned.push({ startFrame, endFrame: endFrame + best - reach });
  }
  return aligned;
}
