/** From this length on, copying through a view beats a loop; such blocks only come where nothing is in a hurry. */
const LONG_FRAMES = 512;

/**
 * Copies source[from … from + frames) to target[to …]. Short blocks, as in the audio clock, are copied without
 * making an object; long ones by the engine's memory move.
 */
export function copyFrames(source: Float32Array, from: number, target: Float32Array, to: number, frames: number): void {
  if (frames >= LONG_FRAMES) target.set(source.subarray(from, from + frames), to);
  else for (let n = 0; n < frames; n++) target[to + n] = source[from + n]!;
}
