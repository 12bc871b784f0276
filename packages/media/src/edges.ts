import { createBlock, makeRoomTone, SHORTEST_TONE_SECONDS, type PlanarBlock } from '@euphonos/dsp';
import type { Edge, Edges } from '@euphonos/engine';
import type { RawWriter } from './raw-file.js';
import type { SoundBlock } from './sound-block.js';

interface Shape {
  readonly sampleRateHz: number;
  readonly channels: number;
}

const BLOCK_FRAMES = 32_768;
const STEP_SECONDS = 0.02;
/** So much of it is taken, where there is so much; else as much as makes a room at all. */
const TONE_SECONDS = [1.5, 0.8, SHORTEST_TONE_SECONDS + 0.1] as const;
/** Less than this is a gate's silence, and no room: −100 dBFS. */
const SILENT_POWER = 1e-10;
/** Of what is still called quiet: 12 dB above the quietest step. What is louder is speech. */
const QUIET_POWER = 16;
/** Over so much the room fades into the sound and out of it, and at the ends of the file from and to nothing. */
const FADE_SECONDS = 0.01;

export const edgeFrames = (edge: Edge | null, sampleRateHz: number): number => (edge ? Math.round(edge.seconds * sampleRateHz) : 0);

/** Mean power of each step of a work file, all channels. */
async function stepPowers(work: RawWriter, { channels, sampleRateHz }: Shape): Promise<number[]> {
  const stepFrames = Math.round(STEP_SECONDS * sampleRateHz);
  const powers: number[] = [];
  let sum = 0;
  let filled = 0;
  for await (const { channels: planar, frames } of work.read(channels))
    for (let n = 0; n < frames; n++) {
      for (const samples of planar) sum += samples[n]! * samples[n]!;
      if (++filled < stepFrames) continue;
      powers.push(sum / (stepFrames * channels));
      sum = 0;
      filled = 0;
    }
  return powers;
}

/** The stretch of so many steps whose loudest step is least, and none of it silence; null where there is none that is quiet all through. */
function quietest(powers: readonly number[], steps: number): number | null {
  const heard = powers.filter((power) => power > SILENT_POWER);
  if (heard.length === 0) return null;
  const least = heard.reduce((a, b) => Math.min(a, b));
  let best: number | null = null;
  let bestPower = least * QUIET_POWER;
  for (let from = 0; from + steps <= powers.length; from++) {
    let most = 0;
    for (let i = from; i < from + steps && most <= bestPower; i++) most = powers[i]! > SILENT_POWER ? Math.max(most, powers[i]!) : Infinity;
    if (most <= bestPower) [best, bestPower] = [from, most];
  }
  return best;
}

/** Room tone of what was rendered: made of where it is quietest; null where it is nowhere quiet, or silent there. */
async function toneOf(work: RawWriter, shape: Shape): Promise<Float32Array[] | null> {
  const stepFrames = Math.round(STEP_SECONDS * shape.sampleRateHz);
  const powers = await stepPowers(work, shape);
  for (const seconds of TONE_SECONDS) {
    const steps = Math.ceil(seconds / STEP_SECONDS);
    const at = quietest(powers, steps);
    if (at === null) continue;
    const [from, frames] = [at * stepFrames, steps * stepFrames];
    const passage = createBlock(shape.channels, frames);
    for await (const block of work.read(shape.channels, (start, count) => start < from + frames && start + count > from))
      block.channels.forEach((samples, c) => {
        const [first, last] = [Math.max(from, block.from), Math.min(from + frames, block.from + block.frames)];
        passage[c]!.set(samples.subarray(first - block.from, last - block.from), first - from);
      });
    return makeRoomTone(passage, shape.sampleRateHz);
  }
  return null;
}

/** A stretch of tone (or of nothing) as long as asked, and what of it reaches over the joint; `loop` is heard from its beginning on. */
function stretch(loop: PlanarBlock | null, channels: number, frames: number): Float32Array[] {
  const out = createBlock(channels, frames);
  if (loop) out.forEach((samples, c) => samples.forEach((_, n) => (samples[n] = loop[c]![n % loop[c]!.length]!)));
  return out;
}

/** Fades the first frames in, or the last ones out, evenly in amplitude. */
function fade(sound: readonly Float32Array[], from: number, frames: number, rising: boolean): void {
  for (const samples of sound) for (let n = 0; n < frames; n++) samples[from + n]! *= rising ? (n + 0.5) / frames : 1 - (n + 0.5) / frames;
}

/**
 * A work file with its head and tail. The sound is as it was: room tone fades out over its first 10 ms and in over its last, beside it.
 * @param soundFrames length of the work file
 */
export async function* withEdges(work: RawWriter, soundFrames: number, { head, tail }: Edges, shape: Shape): AsyncGenerator<SoundBlock> {
  const { channels, sampleRateHz } = shape;
  const tone = [head, tail].some((edge) => edge?.fill === 'room-tone') ? await toneOf(work, shape) : null;
  const over = Math.min(Math.round(FADE_SECONDS * sampleRateHz), soundFrames >> 1);
  const made = (edge: Edge | null): Float32Array[] | null =>
    edge && stretch(edge.fill === 'room-tone' ? tone : null, channels, edgeFrames(edge, sampleRateHz) + over);
  const [before, after] = [made(head), made(tail)];
  if (before) {
    const frames = before[0]!.length - over;
    fade(before, 0, Math.min(over, frames), true);
    fade(before, frames, over, false);
    yield* pieces(before, 0, frames);
  }
  if (after) {
    fade(after, 0, over, true);
    fade(after, after[0]!.length - Math.min(over, after[0]!.length - over), Math.min(over, after[0]!.length - over), false);
  }
  for await (const { channels: planar, frames, from } of work.read(channels)) {
    planar.forEach((samples, c) => {
      if (before)
        for (let n = from; n < Math.min(over, from + frames); n++) samples[n - from]! += before[c]![before[c]!.length - over + n]!;
      if (after)
        for (let n = Math.max(from, soundFrames - over); n < from + frames; n++) samples[n - from]! += after[c]![n - (soundFrames - over)]!;
    });
    yield { channels: planar, frames };
  }
  if (after) yield* pieces(after, over, after[0]!.length);
}

function* pieces(sound: readonly Float32Array[], start: number, end: number): Generator<SoundBlock> {
  for (let from = start; from < end; from += BLOCK_FRAMES) {
    const to = Math.min(end, from + BLOCK_FRAMES);
    yield { channels: sound.map((samples) => samples.slice(from, to)), frames: to - from };
  }
}
