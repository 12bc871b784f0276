import { dbToGain, type PlanarBlock } from '@euphonos/dsp';
import { clipEnd, offsetOf, type Clip, type FadeCurve, type GainPoint } from '../document/clip.js';
import { crossFrames, fadeGain, freeEdge, freeFade, halves, touch } from './joints.js';
import { clipAfter } from './places.js';

/** A clip as it is levelled: everything worked out, so that a gain costs no search and makes no object. */
interface Stretch {
  readonly start: number;
  readonly end: number;
  readonly gain: number;
  readonly offset: number;
  readonly line: readonly GainPoint[];
  readonly inFrames: number;
  readonly inCurve: FadeCurve;
  readonly outFrames: number;
  readonly outCurve: FadeCurve;
  /** Frames before its end and after its start over which a joint goes from the level of one to that of the other. */
  readonly joinBefore: number;
  readonly joinAfter: number;
}

/**
 * What clips do to the level of what the chain makes of them: gain, gain line, fades at free edges, silence. Between
 * clips of other gains it moves over their joint; in gaps there is nothing. Where everything is as it was it is exactly 1.
 */
export class Levels {
  readonly #stretches: readonly Stretch[];

  constructor(private readonly clips: readonly Clip[], recordingFrames: number, sampleRateHz: number) {
    this.#stretches = clips.map((clip, i): Stretch => {
      const before = clips[i - 1] && touch(clips[i - 1]!, clip) ? clips[i - 1] : undefined;
      const after = clips[i + 1] && touch(clip, clips[i + 1]!) ? clips[i + 1] : undefined;
      const free = (side: 'in' | 'out') => freeFade(clip, side, freeEdge(clip, side, i === clips.length - 1, sampleRateHz, recordingFrames));
      const into = before ? null : free('in');
      const out = after ? null : free('out');
      return {
        start: clip.startFrame, end: clipEnd(clip), gain: clip.sound.kind === 'silence' ? 0 : dbToGain(clip.gainDb), offset: offsetOf(clip), line: clip.line,
        inFrames: into?.frames ?? 0, inCurve: into?.curve ?? 'linear', outFrames: out?.frames ?? 0, outCurve: out?.curve ?? 'linear',
        joinBefore: after ? halves(crossFrames(clip, after, sampleRateHz))[0] : 0,
        joinAfter: before ? halves(crossFrames(before, clip, sampleRateHz))[1] : 0,
      };
    });
  }

  /** Gain at a frame of the session. */
  at(frame: number): number {
    return this.#gain(clipAfter(this.clips, frame), frame);
  }

  /** Multiplies block[…][at … at + frames) by the gain from `startFrame` of the session on. */
  apply(block: PlanarBlock, at: number, startFrame: number, frames: number): void {
    let i = clipAfter(this.clips, startFrame);
    for (let n = 0; n < frames; n++) {
      const frame = startFrame + n;
      while (i < this.#stretches.length && this.#stretches[i]!.end <= frame) i++;
      const stretch = this.#stretches[i];
      // Where nothing moves, up to the next place where something does.
      const steady = stretch === undefined ? frames - n : this.#steadyFrames(stretch, frame);
      const gain = stretch === undefined ? 0 : steady > 0 ? stretch.gain : this.#gain(i, frame);
      const until = Math.min(frames, n + Math.max(1, steady));
      if (gain !== 1)
        for (let c = 0; c < block.length; c++) {
          const samples = block[c]!;
          for (let k = n; k < until; k++) samples[at + k] = samples[at + k]! * gain;
        }
      n = until - 1;
    }
  }

  /** How long from a frame on the gain of a stretch is its plain one. */
  #steadyFrames({ start, end, line, inFrames, outFrames, joinBefore, joinAfter }: Stretch, frame: number): number {
    if (line.length > 0 || frame < start + Math.max(inFrames, joinAfter)) return 0;
    return Math.max(0, end - Math.max(outFrames, joinBefore) - frame);
  }

  #gain(i: number, frame: number): number {
    const stretch = this.#stretches[i];
    if (!stretch || frame < stretch.start) return 0;
    const { start, end, inFrames, inCurve, outFrames, outCurve, joinBefore, joinAfter } = stretch;
    let gain = plain(stretch, frame);
    if (frame < start + inFrames) gain *= fadeGain(inCurve, (frame - start + 0.5) / inFrames);
    if (frame >= end - outFrames) gain *= fadeGain(outCurve, (end - frame - 0.5) / outFrames);
    // Over a joint from the one to the other, by the halves that lie in either.
    if (frame < start + joinAfter) {
      const before = this.#stretches[i - 1]!;
      const place = (frame - start + before.joinBefore + 0.5) / (before.joinBefore + joinAfter);
      gain += (plain(before, frame) - gain) * (1 - place);
    } else if (frame >= end - joinBefore) {
      const after = this.#stretches[i + 1]!;
      const place = (frame - (end - joinBefore) + 0.5) / (joinBefore + after.joinAfter);
      gain += (plain(after, frame) - gain) * place;
    }
    return gain;
  }
}

/** Gain and line, without fades; also beyond its edges. */
const plain = ({ gain, line, offset }: Stretch, frame: number): number => (line.length === 0 || gain === 0 ? gain : gain * dbToGain(lineDb(line, frame + offset)));

/** Value of a line at a frame of the recording: straight in decibels between its points, level beyond them. */
export function lineDb(line: readonly GainPoint[], frame: number): number {
  let low = 0;
  let high = line.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (line[middle]!.frame > frame) high = middle;
    else low = middle + 1;
  }
  const before = line[low - 1];
  const after = line[low];
  if (!before) return after?.gainDb ?? 0;
  return after ? before.gainDb + ((after.gainDb - before.gainDb) * (frame - before.frame)) / (after.frame - before.frame) : before.gainDb;
}
