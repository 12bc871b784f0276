import { Cascade } from '../filters/cascade.js';
import type { KernelModule } from '../kernels/instance.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import { DETECTOR_MS } from '../treatments/gate/settings.js';
import { voiceBand } from '../treatments/listens.js';

/** A level every so often. */
export const TRACK_STEP_MS = 1;
/** What a filter needs to settle is not judged. */
const SETTLE_MS = 40;

/** Which frequencies a gate goes by (its `listens`). */
export type GateListens = 'all' | 'voice';

/**
 * Levels as the detector of a gate hears them: the largest mean square of each millisecond, dBFS.
 * @param sound one channel, treated by all that stands before the gate
 */
export function gateTrack(kernels: KernelModule, sound: Float32Array, sampleRateHz: number, listens: GateListens): Float32Array {
  const band = listens === 'voice' ? new Cascade(kernels, voiceBand(sampleRateHz)) : null;
  const share = 1 - Math.exp(-1000 / (DETECTOR_MS * sampleRateHz));
  const step = (sampleRateHz * TRACK_STEP_MS) / 1000;
  const levels = new Float32Array(Math.floor(sound.length / step));
  const block = new Float32Array(MAX_BLOCK_FRAMES);
  let power = 0;
  let most = 0;
  let at = 0;
  for (let from = 0; from < sound.length; from += MAX_BLOCK_FRAMES) {
    const count = Math.min(MAX_BLOCK_FRAMES, sound.length - from);
    block.set(sound.subarray(from, from + count));
    band?.process(block, 0, count);
    for (let n = 0; n < count; n++) {
      power += share * (block[n]! * block[n]! - power);
      if (power > most) most = power;
      if (from + n + 1 < (at + 1) * step || at >= levels.length) continue;
      levels[at++] = 10 * Math.log10(most + 1e-16);
      most = 0;
    }
  }
  return levels.subarray(Math.min(levels.length, SETTLE_MS / TRACK_STEP_MS));
}
