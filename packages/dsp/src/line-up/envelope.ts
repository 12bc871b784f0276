/** Step of the finest envelope. */
export const STEP_SECONDS = 0.005;
/** What is slower than this is level, not rhythm. */
const SLOW_SECONDS = 1.2;
const COMPRESSION = 0.3;

/** A sound that can be read anywhere. */
export interface ReadableSound {
  readonly frames: number;
  /** One channel of frames [from, to); silence outside. */
  read(from: number, to: number): Promise<Float32Array>;
}

const BLOCK_STEPS = 2048;

/**
 * The rhythm of a sound: energy of its differences (which the rumble of a room hardly touches) in steps, compressed, less what is slow.
 * Microphones and rooms change level and colour; when somebody speaks they leave alone.
 */
export async function rhythmOf(sound: ReadableSound, stepFrames: number): Promise<Float32Array> {
  const steps = Math.floor(sound.frames / stepFrames);
  const energy = new Float32Array(steps);
  for (let first = 0; first < steps; first += BLOCK_STEPS) {
    const count = Math.min(BLOCK_STEPS, steps - first);
    const x = await sound.read(first * stepFrames, (first + count) * stepFrames);
    let before = x[0] ?? 0;
    for (let i = 0; i < count; i++) {
      let sum = 0;
      for (let n = i * stepFrames; n < (i + 1) * stepFrames; n++) {
        const step = x[n]! - before;
        before = x[n]!;
        sum += step * step;
      }
      energy[first + i] = sum / stepFrames;
    }
  }
  return energy;
}

/** Energies joined to steps that are so many times as long, compressed, without their slow part, at a mean square of one. */
export function flattened(energy: Float32Array, times: number, stepSeconds: number): Float32Array {
  const steps = Math.floor(energy.length / times);
  const out = new Float32Array(steps);
  for (let i = 0; i < steps; i++) {
    let sum = 0;
    for (let j = i * times; j < (i + 1) * times; j++) sum += energy[j]!;
    out[i] = (sum / times + 1e-14) ** COMPRESSION;
  }
  const reach = Math.max(1, Math.round(SLOW_SECONDS / 2 / (stepSeconds * times)));
  const sums = new Float64Array(steps + 1);
  for (let i = 0; i < steps; i++) sums[i + 1] = sums[i]! + out[i]!;
  let square = 0;
  const flat = out.map((x, i) => {
    const [from, to] = [Math.max(0, i - reach), Math.min(steps, i + reach + 1)];
    const y = x - (sums[to]! - sums[from]!) / (to - from);
    square += y * y;
    return y;
  });
  const scale = 1 / Math.sqrt(square / Math.max(1, steps) + 1e-20);
  return flat.map((y) => y * scale);
}
