import { clipEnd, offsetOf, type Clip } from '../document/clip.js';
import { edgesOf, halves, type Edge } from './joints.js';

/** A stretch of one stream: clips that go on into each other without a seam are one. */
interface Piece {
  readonly startFrame: number;
  endFrame: number;
  /** What sounds in it, in a word. */
  readonly what: string;
  /** From where its beginning, and from where its end, fades. */
  readonly risesFrom: number;
  fallsFrom: number;
  readonly left: Edge;
  right: Edge;
}

/**
 * The first frame at which the sound of other clips before the chain may differ: up to there both are the same to the bit. Infinity when
 * they are all the same. Levels come after the chain and do not count.
 */
export function firstChange(before: readonly Clip[], after: readonly Clip[], sampleRateHz: number, recordingFrames: number): number {
  const [a, b] = [before, after].map((clips) => pieces(clips, sampleRateHz, recordingFrames)) as [Piece[], Piece[]];
  for (let i = 0; i < Math.max(a.length, b.length); i++) {
    const [one, other] = [a[i], b[i]];
    if (!one || !other) return (one ?? other)!.risesFrom;
    if (one.startFrame !== other.startFrame || one.what !== other.what || !sameEdge(one.left, other.left))
      return Math.min(one.risesFrom, other.risesFrom);
    if (one.endFrame !== other.endFrame || !sameEdge(one.right, other.right)) return Math.min(one.fallsFrom, other.fallsFrom);
  }
  return Infinity;
}

const sameEdge = (a: Edge, b: Edge): boolean => a.kind === b.kind && a.frames === b.frames && a.curve === b.curve;

function pieces(clips: readonly Clip[], sampleRateHz: number, recordingFrames: number): Piece[] {
  const made: Piece[] = [];
  for (const [i, clip] of clips.entries()) {
    const [left, right] = edgesOf(clips, i, sampleRateHz, recordingFrames);
    const end = clipEnd(clip);
    const fallsFrom = end - (right.kind === 'cross' ? halves(right.frames)[0] : right.frames);
    const last = made[made.length - 1];
    if (last && left.kind === 'none' && last.endFrame === clip.startFrame) {
      Object.assign(last, { endFrame: end, fallsFrom, right });
      continue;
    }
    made.push({
      startFrame: clip.startFrame,
      endFrame: end,
      what: JSON.stringify([offsetOf(clip), clip.sound, clip.chain?.treatments ?? null]),
      risesFrom: clip.startFrame - (left.kind === 'cross' ? halves(left.frames)[0] : 0),
      fallsFrom,
      left,
      right,
    });
  }
  return made;
}
