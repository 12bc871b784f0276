import { EngineError } from '../errors.js';
import { NO_FADE, plainClip, type Clip } from './clip.js';
import type { Track } from './document.js';
import { liesInPart } from './reel.js';
import type { Span } from './span.js';

/** A bed of pieces, one after the other, in place of the clips of a track: one step. Where it began it still begins. */
export interface LayBedEdit {
  readonly type: 'lay-bed';
  readonly trackId: string;
  /** For the history. */
  readonly title: string;
  /** In frames of the reel. */
  readonly pieces: readonly Span[];
  readonly crossFrames: number;
  /** Length of the fade at the end; 0 where it ends as it was made. */
  readonly fadeFrames: number;
}

/** Pure. @throws {EngineError} `span-outside` for a piece that lies in no recording of the track */
export function layBed(track: Track, { pieces, crossFrames, fadeFrames }: LayBedEdit): Track {
  for (const piece of pieces)
    if (piece.startFrame >= piece.endFrame || !liesInPart(track.reel, piece))
      throw new EngineError('span-outside', `A piece from frame ${piece.startFrame} to ${piece.endFrame} does not lie in the recording.`, {
        span: piece,
      });
  const [first] = track.clips;
  const cross = { frames: crossFrames, curve: 'equal-power' } as const;
  let at = first?.startFrame ?? 0;
  const clips = pieces.map((piece, i): Clip => {
    const last = i === pieces.length - 1;
    const clip: Clip = {
      ...plainClip(`c${track.clipsMade + i + 1}`, at, piece),
      gainDb: first?.gainDb ?? 0,
      fadeIn: i === 0 ? (first?.fadeIn ?? NO_FADE) : cross,
      fadeOut: !last ? cross : fadeFrames > 0 ? { frames: fadeFrames, curve: 's' } : NO_FADE,
    };
    at += piece.endFrame - piece.startFrame;
    return clip;
  });
  return clips.length === 0 ? track : { ...track, clips, clipsMade: track.clipsMade + clips.length };
}
