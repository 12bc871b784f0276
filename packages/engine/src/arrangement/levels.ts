import { dbToGain, type PlanarBlock } from '@euphonos/dsp';
import { clipEnd, fadeCurves, offsetOf, type Clip, type GainPoint } from '../document/clip.js';
import { crossFrames, fadeGain, freeEdge, freeFade, halves, touch } from './joints.js';

/** Numbers a clip has in a table, in this order. */
const START = 0,
  END = 1,
  GAIN = 2,
  OFFSET = 3,
  LINE_FROM = 4,
  LINE_TO = 5,
  IN = 6,
  IN_CURVE = 7,
  OUT = 8,
  OUT_CURVE = 9,
  JOIN_BEFORE = 10,
  JOIN_AFTER = 11,
  WIDTH = 12;

/** What clips do to levels, worked out and packed: it goes to the audio thread without being copied, and costs nothing to open there. */
export interface LevelTable {
  readonly stretches: Float64Array;
  /** Points of gain lines: frame of the recording, dB. */
  readonly points: Float64Array;
}

/** @param gainDb of the track among the others; -Infinity when it is muted. */
export function levelTable(clips: readonly Clip[], recordingFrames: number, sampleRateHz: number, gainDb = 0): LevelTable {
  const stretches = new Float64Array(clips.length * WIDTH);
  const points = new Float64Array(2 * clips.reduce((sum, { line }) => sum + line.length, 0));
  let at = 0;
  clips.forEach((clip, i) => {
    const [before, after] = [clips[i - 1], clips[i + 1]];
    const row = i * WIDTH;
    stretches[row + START] = clip.startFrame;
    stretches[row + END] = clipEnd(clip);
    stretches[row + GAIN] = clip.sound.kind === 'silence' ? 0 : dbToGain(clip.gainDb + gainDb);
    stretches[row + OFFSET] = offsetOf(clip);
    stretches[row + LINE_FROM] = at;
    for (const { frame, gainDb } of clip.line) {
      points[2 * at] = frame;
      points[2 * at++ + 1] = gainDb;
    }
    stretches[row + LINE_TO] = at;
    if (before && touch(before, clip)) stretches[row + JOIN_AFTER] = halves(crossFrames(before, clip, sampleRateHz))[1];
    else {
      const { frames, curve } = freeFade(clip, 'in', freeEdge(clip, 'in', false, sampleRateHz, recordingFrames));
      stretches[row + IN] = frames;
      stretches[row + IN_CURVE] = fadeCurves.indexOf(curve);
    }
    if (after && touch(clip, after)) stretches[row + JOIN_BEFORE] = halves(crossFrames(clip, after, sampleRateHz))[0];
    else {
      const { frames, curve } = freeFade(clip, 'out', freeEdge(clip, 'out', !after, sampleRateHz, recordingFrames));
      stretches[row + OUT] = frames;
      stretches[row + OUT_CURVE] = fadeCurves.indexOf(curve);
    }
  });
  return { stretches, points };
}

/**
 * What clips do to the level of what the chain makes of them: gain, gain line, fades at free edges, silence. Between
 * clips of other gains it moves over their joint; in gaps there is nothing. Where everything is as it was it is exactly 1.
 */
export class Levels {
  readonly #rows: Float64Array;
  readonly #points: Float64Array;
  readonly #count: number;

  constructor({ stretches, points }: LevelTable) {
    this.#rows = stretches;
    this.#points = points;
    this.#count = stretches.length / WIDTH;
  }

  static of(clips: readonly Clip[], recordingFrames: number, sampleRateHz: number): Levels {
    return new Levels(levelTable(clips, recordingFrames, sampleRateHz));
  }

  /** Gain at a frame of the session. */
  at(frame: number): number {
    return this.#gain(this.#after(frame), frame);
  }

  /** Multiplies block[…][at … at + frames) by the gain from `startFrame` of the session on. */
  apply(block: PlanarBlock, at: number, startFrame: number, frames: number): void {
    let i = this.#after(startFrame);
    for (let n = 0; n < frames;) {
      const frame = startFrame + n;
      while (i < this.#count && this.#rows[i * WIDTH + END]! <= frame) i++;
      // Where nothing moves, up to the next place where something does.
      const steady = Math.min(frames - n, this.#steadyFrames(i, frame));
      const gain =
        steady > 0 && i < this.#count && this.#rows[i * WIDTH + START]! <= frame ? this.#rows[i * WIDTH + GAIN]! : this.#gain(i, frame);
      const until = n + Math.max(1, steady);
      if (gain !== 1)
        for (let c = 0; c < block.length; c++) {
          const samples = block[c]!;
          for (let k = n; k < until; k++) samples[at + k] = samples[at + k]! * gain;
        }
      n = until;
    }
  }

  /** Index of the first clip that ends after a frame. */
  #after(frame: number): number {
    let low = 0;
    let high = this.#count;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#rows[middle * WIDTH + END]! > frame) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  /** How long from a frame on the gain stays what it is: the plain one of a clip, or nothing. */
  #steadyFrames(i: number, frame: number): number {
    if (i >= this.#count) return Infinity;
    const rows = this.#rows;
    const row = i * WIDTH;
    if (frame < rows[row + START]!) return rows[row + START]! - frame;
    if (rows[row + LINE_FROM] !== rows[row + LINE_TO] || frame < rows[row + START]! + Math.max(rows[row + IN]!, rows[row + JOIN_AFTER]!))
      return 0;
    return Math.max(0, rows[row + END]! - Math.max(rows[row + OUT]!, rows[row + JOIN_BEFORE]!) - frame);
  }

  #gain(i: number, frame: number): number {
    const rows = this.#rows;
    const row = i * WIDTH;
    if (i >= this.#count || frame < rows[row + START]!) return 0;
    const start = rows[row + START]!;
    const end = rows[row + END]!;
    let gain = this.#plain(i, frame);
    if (frame < start + rows[row + IN]!) gain *= fadeGain(fadeCurves[rows[row + IN_CURVE]!]!, (frame - start + 0.5) / rows[row + IN]!);
    if (frame >= end - rows[row + OUT]!) gain *= fadeGain(fadeCurves[rows[row + OUT_CURVE]!]!, (end - frame - 0.5) / rows[row + OUT]!);
    // Over a joint from the one to the other, by the halves that lie in either.
    const joinAfter = rows[row + JOIN_AFTER]!;
    const joinBefore = rows[row + JOIN_BEFORE]!;
    if (frame < start + joinAfter) {
      const lead = rows[row - WIDTH + JOIN_BEFORE]!;
      gain += (this.#plain(i - 1, frame) - gain) * (1 - (frame - start + lead + 0.5) / (lead + joinAfter));
    } else if (frame >= end - joinBefore) {
      const trail = rows[row + WIDTH + JOIN_AFTER]!;
      gain += (this.#plain(i + 1, frame) - gain) * ((frame - (end - joinBefore) + 0.5) / (joinBefore + trail));
    }
    return gain;
  }

  /** Gain and line of a clip, without fades; also beyond its edges. */
  #plain(i: number, frame: number): number {
    const row = i * WIDTH;
    const gain = this.#rows[row + GAIN]!;
    const [from, to] = [this.#rows[row + LINE_FROM]!, this.#rows[row + LINE_TO]!];
    return from === to || gain === 0 ? gain : gain * dbToGain(valueOf(this.#points, from, to, frame + this.#rows[row + OFFSET]!));
  }
}

/** Straight in decibels between points [from, to) of a table, level beyond them. */
function valueOf(points: Float64Array, from: number, to: number, frame: number): number {
  let low = from;
  let high = to;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (points[2 * middle]! > frame) high = middle;
    else low = middle + 1;
  }
  if (low === from) return from < to ? points[2 * from + 1]! : 0;
  const before = points[2 * (low - 1) + 1]!;
  if (low === to) return before;
  const start = points[2 * (low - 1)]!;
  return before + ((points[2 * low + 1]! - before) * (frame - start)) / (points[2 * low]! - start);
}

/** Value of a line at a frame of the recording, dB. */
export function lineDb(line: readonly GainPoint[], frame: number): number {
  return valueOf(Float64Array.from(line.flatMap((point) => [point.frame, point.gainDb])), 0, line.length, frame);
}
