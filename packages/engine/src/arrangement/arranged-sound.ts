import { createBlock, dbToGain, type KernelModule, type PlanarBlock } from '@euphonos/dsp';
import { clipEnd, offsetOf, type Clip } from '../document/clip.js';
import { readThroughChain, type ClipNoise } from './clip-chain.js';
import { clipAfter, endOf } from './places.js';
import { edgesOf, fadeGain, halves, type Edge } from './joints.js';

/** Reads frames [startFrame, endFrame) of the recording's channels that are used; the span lies in the recording. */
export type ReadRecording = (startFrame: number, endFrame: number) => Promise<PlanarBlock>;

/** What a track is made of before its chain. */
export interface Arrangement {
  readonly clips: readonly Clip[];
  readonly recordingFrames: number;
  readonly sampleRateHz: number;
  /** The loop that room tone is read from; null where there is none. */
  readonly tone: PlanarBlock | null;
  /** For clips that have a chain of their own; without it they sound untreated. */
  readonly kernels?: KernelModule | undefined;
  /** What is known of the track's noise, for clips whose own chain weighs by it. */
  readonly noise?: ClipNoise | undefined;
}

/**
 * The sound of a track as it goes into its chain: the clips' stretches of the recording at their places, joints
 * crossfaded, free edges faded, nothing in gaps. Gains come after the chain (`Levels`), so that it hears the room as it
 * was recorded. The same for every reader, in any pieces.
 * @returns frames [startFrame, endFrame) of the session, planar; silence after the last clip.
 */
export async function readArranged(
  sound: Arrangement,
  channels: number,
  read: ReadRecording,
  startFrame: number,
  endFrame: number,
): Promise<Float32Array[]> {
  const out = createBlock(channels, Math.max(0, endFrame - startFrame));
  const { clips } = sound;
  // A crossfade reaches at most to the middle of a neighbour: the clips beside those in the span are enough.
  const first = Math.max(0, clipAfter(clips, startFrame) - 1);
  for (let i = first; i < clips.length; i++) {
    if (i > 0 && clips[i - 1]!.startFrame >= endFrame) break;
    await addClip(sound, i, read, startFrame, endFrame, out);
  }
  return out;
}

async function addClip(
  { clips, recordingFrames, sampleRateHz, tone, kernels, noise }: Arrangement,
  i: number,
  read: ReadRecording,
  startFrame: number,
  endFrame: number,
  out: readonly Float32Array[],
): Promise<void> {
  const clip = clips[i]!;
  const [left, right] = edgesOf(clips, i, sampleRateHz, recordingFrames);
  const rising = placeOf(left, clip.startFrame, 'in');
  const falling = placeOf(right, clipEnd(clip), 'out');
  const from = Math.max(startFrame, Math.min(clip.startFrame, rising.from));
  const to = Math.min(endFrame, Math.max(clipEnd(clip), falling.to));
  if (from >= to) return;
  const offset = offsetOf(clip);
  const held = (start: number, end: number): Promise<PlanarBlock> => readHeld(read, start, end, recordingFrames, out.length);
  const own =
    clip.chain && kernels ? readThroughChain({ kernels, sampleRateHz, noise }, clip.chain, held, from + offset, to + offset) : null;
  const samples = clip.sound.kind === 'room-tone' ? null : await (own ?? held(from + offset, to + offset));
  const toneGain = clip.sound.kind === 'room-tone' ? dbToGain(clip.sound.gainDb) : 0;
  const toneFrames = tone?.[0]?.length ?? 0;
  for (let c = 0; c < out.length; c++) {
    const target = out[c]!;
    const heard = samples?.[c];
    for (let frame = from; frame < to; frame++) {
      let x = heard ? heard[frame - from]! : toneFrames > 0 ? toneGain * tone![c]![modulo(frame + offset, toneFrames)]! : 0;
      if (frame < rising.to) x *= fadeGain(left.curve, (frame - rising.from + 0.5) / left.frames);
      if (frame >= falling.from) x *= fadeGain(right.curve, (falling.to - frame - 0.5) / right.frames);
      target[frame - startFrame] = target[frame - startFrame]! + x;
    }
  }
}

const modulo = (value: number, by: number): number => ((value % by) + by) % by;

/** From where to where an edge at a frame of the session fades. */
function placeOf(edge: Edge, at: number, side: 'in' | 'out'): { readonly from: number; readonly to: number } {
  if (edge.kind === 'none') return { from: at, to: at };
  if (edge.kind === 'fade') return side === 'in' ? { from: at, to: at + edge.frames } : { from: at - edge.frames, to: at };
  const [before, after] = halves(edge.frames);
  return { from: at - before, to: at + after };
}

/** Silence before and after the recording. */
async function readHeld(read: ReadRecording, from: number, to: number, recordingFrames: number, channels: number): Promise<PlanarBlock> {
  const start = Math.max(0, Math.min(from, recordingFrames));
  const end = Math.max(start, Math.min(to, recordingFrames));
  const samples = start === end ? [] : await read(start, end);
  if (start === from && end === to) return samples;
  return Array.from({ length: channels }, (_, c) => {
    const held = new Float32Array(to - from);
    if (samples[c]) held.set(samples[c], start - from);
    return held;
  });
}

/** Length of an arrangement. */
export const arrangedFrames = ({ clips }: Pick<Arrangement, 'clips'>): number => endOf(clips);
