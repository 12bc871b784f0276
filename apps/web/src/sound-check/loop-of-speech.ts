/** A stretch of what was just said, for the loop: about so long, from a pause to a pause. */
const SECONDS = 6;
const LEAST_SECONDS = 3;
const STEP_SECONDS = 0.02;

/** Where it begins and ends, in frames. */
export function loopOfSpeech(sound: Float32Array, sampleRateHz: number): { readonly startFrame: number; readonly endFrame: number } {
  const step = Math.round(STEP_SECONDS * sampleRateHz);
  const powers: number[] = [];
  for (let at = 0; at + step <= sound.length; at += step) {
    let sum = 0;
    for (let n = at; n < at + step; n++) sum += sound[n]! ** 2;
    powers.push(sum);
  }
  const wanted = Math.round(SECONDS / STEP_SECONDS);
  if (powers.length <= wanted) return { startFrame: 0, endFrame: sound.length };
  /** The quietest moment of a stretch, in steps. */
  const quietest = (from: number, to: number): number => {
    let best = from;
    for (let i = from; i < Math.min(to, powers.length - 3); i++)
      if (powers[i]! + powers[i + 1]! + powers[i + 2]! < powers[best]! + (powers[best + 1] ?? 0) + (powers[best + 2] ?? 0)) best = i;
    return best + 1;
  };
  const least = Math.round(LEAST_SECONDS / STEP_SECONDS);
  const from = quietest(Math.max(0, powers.length - wanted - least), powers.length - wanted + least / 2);
  const to = quietest(Math.max(from + least, powers.length - least), powers.length);
  return { startFrame: from * step, endFrame: Math.min(sound.length, to * step) };
}
