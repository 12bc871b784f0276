import { plainClip, type Clip } from '../document/clip.js';
import type { SessionDocument, Track } from '../document/document.js';
import { partAt, partEnd, type ReelPart } from '../document/reel.js';

/** Something of a session that is rendered for an editor: a document in which one track sounds as just that. */
export interface Piece {
  readonly trackId: string;
  readonly document: SessionDocument;
  readonly recordingId: string;
  /** Where in its recording it begins. */
  readonly startFrame: number;
  readonly frames: number;
  readonly clip: Clip | null;
}

/** The track as one stretch of its reel alone, treated as it is there, without level, place or fades: these stay in the other program. */
function alone(document: SessionDocument, track: Track, part: ReelPart, clip: Clip, of: Clip | null): Piece {
  const bare: Track = { ...track, clips: [clip], gainDb: 0, pan: 0, loop: null, muted: false };
  return {
    trackId: track.id,
    document: { ...document, tracks: [bare], versions: [] },
    recordingId: part.recordingId,
    startFrame: clip.source.startFrame - part.startFrame,
    frames: clip.source.endFrame - clip.source.startFrame,
    clip: of,
  };
}

/** Every clip that sounds, with so much more before and behind it as its recording has. */
export function clipPieces(document: SessionDocument, handleFrames: number): Piece[] {
  return document.tracks.flatMap((track) =>
    track.clips.flatMap((clip) => {
      if (clip.sound.kind !== 'recording') return [];
      const part = partAt(track.reel, clip.source.startFrame);
      const source = {
        startFrame: Math.max(part.startFrame, clip.source.startFrame - handleFrames),
        endFrame: Math.min(partEnd(part), clip.source.endFrame + handleFrames),
      };
      return [alone(document, track, part, { ...plainClip(clip.id, 0, source), chain: clip.chain }, clip)];
    }),
  );
}

/**
 * Every recording as a whole, in the place of the file that it came as: nothing is cut. One that several tracks hear, each a channel of it,
 * is none of them alone; its id is told in `shared`.
 */
export function originalPieces(document: SessionDocument): { readonly pieces: readonly Piece[]; readonly shared: readonly string[] } {
  const heardBy = new Map<string, number>();
  for (const { reel } of document.tracks)
    for (const id of new Set(reel.map(({ recordingId }) => recordingId))) heardBy.set(id, (heardBy.get(id) ?? 0) + 1);
  const pieces = document.tracks.flatMap((track) =>
    track.reel
      .filter(
        ({ recordingId }, i, all) => heardBy.get(recordingId) === 1 && all.findIndex((other) => other.recordingId === recordingId) === i,
      )
      .map((part) => alone(document, track, part, plainClip('whole', 0, { startFrame: part.startFrame, endFrame: partEnd(part) }), null)),
  );
  return { pieces, shared: [...heardBy].filter(([, count]) => count > 1).map(([id]) => id) };
}
