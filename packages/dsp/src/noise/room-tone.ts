import { DspError } from '../errors.js';
import type { PlanarBlock } from '../processor.js';

/** Length of the loop: long enough that nobody hears it come round. */
const LOOP_SECONDS = 10;
/** Stretches of the passage that follow each other, each from another place; and how long one fades into the next. */
const STRETCH_SECONDS = [0.35, 0.8] as const;
const FADE_SECONDS = 0.1;
/** The next stretch is looked for within this much, where it goes on best: a period of 50 Hz. */
const SEARCH_SECONDS = 0.02;
/** Samples compared in that search are this far apart. */
const COMPARE_STEP = 4;
/** Less than this is no room. */
export const SHORTEST_TONE_SECONDS = 0.3;

/** Repeats itself exactly, so that page, worker and render make the same tone. @returns numbers 0 … 1 */
function sequence(): () => number {
  let state = 0x2545f491;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}

/** How well `a` from `i` on goes on like `b` from `j` on: normalised correlation over the fade, -1 … 1. */
export function likeness(a: Float32Array, i: number, b: Float32Array, j: number, frames: number): number {
  let product = 0,
    powerA = 0,
    powerB = 0;
  for (let n = 0; n < frames; n += COMPARE_STEP) {
    const x = a[i + n]!;
    const y = b[j + n]!;
    product += x * y;
    powerA += x * x;
    powerB += y * y;
  }
  return product / Math.sqrt(powerA * powerB + 1e-30);
}

/** The start within [from, to] at which `source` goes on best where `out` is at `at`. */
function bestStart(
  out: Float32Array,
  at: number,
  source: Float32Array,
  from: number,
  to: number,
  frames: number,
): { readonly start: number; readonly like: number } {
  let start = from;
  let like = -Infinity;
  for (let candidate = from; candidate <= to; candidate += 2) {
    const found = likeness(out, at, source, candidate, frames);
    if (found > like) [start, like] = [candidate, found];
  }
  return { start, like };
}

/** Fades from what stands in `out` to `source`; at even power, whatever the two have in common. */
function fadeInto(out: Float32Array, at: number, source: Float32Array, start: number, frames: number, like: number): void {
  for (let n = 0; n < frames; n++) {
    const angle = ((n + 0.5) / frames) * (Math.PI / 2);
    const [fading, rising] = [Math.cos(angle), Math.sin(angle)];
    const even = 1 / Math.sqrt(1 + 2 * Math.max(0, like) * fading * rising);
    out[at + n] = (out[at + n]! * fading + source[start + n]! * rising) * even;
  }
}

/**
 * A loop of room tone from a passage with noise alone: stretches of it in a shuffled order, each joined where it goes on
 * best (so that a hum in it keeps its phase), the end into the beginning like all the others. As loud as the passage.
 * @param passage planar, 0.3 s or more. @returns planar, about ten seconds; the same for the same passage.
 * @throws {DspError} `noise-too-short`
 */
export function makeRoomTone(passage: PlanarBlock, sampleRateHz: number): Float32Array[] {
  const frames = passage[0]?.length ?? 0;
  if (frames < SHORTEST_TONE_SECONDS * sampleRateHz)
    throw new DspError(
      'noise-too-short',
      `Room tone is made of ${SHORTEST_TONE_SECONDS} s of a room or more; this passage is ${(frames / sampleRateHz).toFixed(2)} s long.`,
    );
  const at = (seconds: number): number => Math.round(seconds * sampleRateHz);
  const fade = Math.min(at(FADE_SECONDS), frames >> 3);
  const search = Math.min(at(SEARCH_SECONDS), frames >> 3);
  const total = at(LOOP_SECONDS);
  const random = sequence();
  const out = passage.map(() => new Float32Array(total + at(STRETCH_SECONDS[1]) + 2 * fade + search));
  const lead = passage[0]!;
  let written = Math.min(frames, at(STRETCH_SECONDS[1]));
  passage.forEach((samples, c) => out[c]!.set(samples.subarray(0, written)));
  while (written < total + fade + search) {
    const wished = at(STRETCH_SECONDS[0] + random() * (STRETCH_SECONDS[1] - STRETCH_SECONDS[0]));
    const length = Math.min(wished, frames - search);
    const from = Math.floor(random() * (frames - length - search));
    const join = written - fade;
    const { start, like } = bestStart(out[0]!, join, lead, from, from + search, fade);
    passage.forEach((samples, c) => {
      fadeInto(out[c]!, join, samples, start, fade, like);
      out[c]!.set(samples.subarray(start + fade, start + length), join + fade);
    });
    written = join + length;
  }
  // The end goes over into the beginning: of the places around, the one that goes on best.
  const { start: end, like } = bestStart(out[0]!, 0, out[0]!, total, total + search, fade);
  return out.map((samples) => {
    const loop = samples.slice(0, end);
    const tail = samples.slice(end, end + fade);
    fadeInto(tail, 0, samples, 0, fade, like);
    loop.set(tail);
    return loop;
  });
}
