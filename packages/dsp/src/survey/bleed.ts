import { powerToDb } from '../units.js';
import type { HeardChannel, Talk } from './talk.js';

/** So much of one person alone must be heard to say how much of them another microphone hears. */
const LEAST_SECONDS = 2;
/** What stands less over the floor of the microphone is not told apart from it. */
const OVER_FLOOR_DB = 1;

/** How much of one person a microphone of another hears, against their own. Channels are indices. */
export interface Bleed {
  readonly into: number;
  readonly from: number;
  readonly db: number;
}

/**
 * How much people bleed into each other's microphones: where one alone talks, the power of the body of the voice on the other channel, less
 * what is there when nobody talks, against that on their own.
 * @param own who talks on which channel, without what is only heard of others
 */
export function bleedOf(channels: readonly HeardChannel[], own: readonly Talk[]): Bleed[] {
  const power = (channel: HeardChannel, i: number): number => 10 ** (channel.features.body.values[i]! / 10);
  const frames = own[0]?.isTalk.length ?? 0;
  const found: Bleed[] = [];
  for (const [into, channel] of channels.entries()) {
    let floor = 0;
    let silent = 0;
    for (let i = 0; i < frames; i++)
      if (own.every(({ isTalk }, c) => isTalk[i] === 0 && channels[c]!.talk.isTalk[i] === 0)) {
        floor += power(channel, i);
        silent++;
      }
    if (silent === 0) continue;
    floor /= silent;
    for (const [from, other] of channels.entries()) {
      if (from === into) continue;
      let heard = 0;
      let said = 0;
      let count = 0;
      for (let i = 0; i < frames; i++) {
        if (own[from]!.isTalk[i] === 0 || own.some(({ isTalk }, c) => c !== from && isTalk[i] === 1)) continue;
        heard += power(channel, i);
        said += power(other, i);
        count++;
      }
      if (count * channel.features.frameSeconds < LEAST_SECONDS) continue;
      if (powerToDb(heard / count / (floor + 1e-20)) < OVER_FLOOR_DB) continue;
      found.push({ into, from, db: powerToDb((heard / count - floor) / (said / count + 1e-20)) });
    }
  }
  return found;
}
