import { powerToDb, type Spoken } from '@euphonos/dsp';

/** Loudness of talk alone between two times, LUFS: stretches count by how long they lie between them. null where nobody talks. */
export function talkLufs(talk: readonly Spoken[], fromSeconds: number, toSeconds: number): number | null {
  let power = 0;
  let seconds = 0;
  for (const { startSeconds, endSeconds, lufs } of talk) {
    const within = Math.min(endSeconds, toSeconds) - Math.max(startSeconds, fromSeconds);
    if (within <= 0) continue;
    power += within * 10 ** (lufs / 10);
    seconds += within;
  }
  return seconds === 0 ? null : powerToDb(power / seconds);
}
