import type { KernelModule } from '../kernels/instance.js';
import { voiceBand } from '../treatments/listens.js';
import { powerToDb } from '../units.js';
import { stepPowers } from './step-powers.js';

const STEP_SECONDS = 0.01;
/** A sound ends where the level falls so far under the top of the moment before, and does not come back for a while. */
const END_UNDER_DB = 6;
const TOP_SECONDS = 0.1;
const CLEAR_SECONDS = 0.17;
/** Only what is nearly as loud as the talk is listened after. */
const LOUD_UNDER_DB = 6;
/** By then a voice is gone, and what is heard is the room. */
const TAIL_SECONDS = [0.08, 0.14] as const;
const LEAST_ENDS = 5;

/**
 * How loud the room is after words, against the words: the level from 80 to 140 ms after a loud sound ends, the lower median over all
 * ends, without the floor. The further from the mouth, the more of it (distance against critical distance). Common practice, no source.
 * @returns dB under the talk (negative); null with fewer than 5 ends of words
 */
export function roomShareDb(kernels: KernelModule, speech: Float32Array, sampleRateHz: number, floorDbfs: number): number | null {
  const levels = stepPowers(kernels, voiceBand(sampleRateHz), speech, Math.round(STEP_SECONDS * sampleRateHz));
  const db = levels.map((power) => powerToDb(power + 1e-14));
  const talk = db.filter((level) => level > floorDbfs + 12).sort((a, b) => a - b);
  if (talk.length < 50) return null;
  const talkDb = powerToDb(
    talk.slice(talk.length >> 1).reduce((sum, level) => sum + 10 ** (level / 10), 0) / (talk.length - (talk.length >> 1)),
  );
  const steps = (seconds: number): number => Math.round(seconds / STEP_SECONDS);
  const [from, to] = TAIL_SECONDS.map(steps) as [number, number];
  const floor = 10 ** (floorDbfs / 10);
  const shares: number[] = [];
  for (let i = steps(TOP_SECONDS); i + steps(CLEAR_SECONDS) < db.length; i++) {
    const top = Math.max(...db.slice(i - steps(TOP_SECONDS), i));
    const end = top - END_UNDER_DB;
    if (top < talkDb - LOUD_UNDER_DB || db[i - 1]! < end || db.slice(i, i + steps(CLEAR_SECONDS)).some((level) => level >= end)) continue;
    const tail = levels.slice(i + from, i + to).reduce((sum, power) => sum + power, 0) / (to - from);
    // What lies under the floor is known to be that low, and no lower.
    shares.push(powerToDb(Math.max(floor / 4, tail - floor)) - top);
  }
  if (shares.length < LEAST_ENDS) return null;
  return shares.sort((a, b) => a - b)[Math.floor(0.4 * shares.length)]!;
}
