import type { Features } from './features.js';
import { quantile } from './growing.js';
import type { Talk } from './talk.js';

/** A decay is looked at while the level falls, from the frame after its top to this far above the floor. */
const LEAST_FALL_DB = 9;
const LEAST_FRAMES = 5;
const ABOVE_FLOOR_DB = 5;
const REBOUND_DB = 0.8;
const LEAST_DECAYS = 10;
/** The fastest decays are early ones between neighbouring sounds, the slowest are voices that fade by themselves. */
const FAST_SHARE = 0.35;

/**
 * Time for 60 dB from where the level falls freely: a low quantile (35 %) of straight lines through it, in dB. A room lets nothing
 * fall faster than its own decay (the idea of Löllmann & Vary 2008). Null when there are too few free decays. Dry speech
 * itself reads 0.2 to 0.4 s; long decays read too short, since the next word comes before they have ended.
 */
export function roomDecaySeconds(features: Features, talk: Talk): number | null {
  const body = features.body.values;
  const decays: number[] = [];
  for (let top = 1; top < body.length - LEAST_FRAMES; top++) {
    if (!talk.isTalk[top] || body[top]! < body[top - 1]! || body[top]! < talk.talkBodyDb - 15) continue;
    let end = top + 1;
    while (end < body.length && body[end]! > talk.floorDb[end]! + ABOVE_FLOOR_DB && body[end]! < body[end - 1]! + REBOUND_DB) end++;
    const from = top + 1;
    if (end - from >= LEAST_FRAMES && body[from]! - body[end - 1]! >= LEAST_FALL_DB) {
      const slope = slopeOf(body, from, end);
      if (slope < 0) decays.push((-60 / slope) * features.frameSeconds);
    }
    top = Math.max(top, end - 1);
  }
  return decays.length < LEAST_DECAYS ? null : quantile(decays, FAST_SHARE);
}

/** Slope of the line of least squares through values[from … to), per step. */
function slopeOf(values: Float32Array, from: number, to: number): number {
  const middle = (from + to - 1) / 2;
  let up = 0;
  let down = 0;
  for (let i = from; i < to; i++) {
    up += (i - middle) * values[i]!;
    down += (i - middle) ** 2;
  }
  return up / down;
}
