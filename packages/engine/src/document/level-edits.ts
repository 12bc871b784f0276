import { shapeClip } from './clip-edits.js';
import { TRACK_GAIN_DB, type SessionDocument } from './document.js';
import { EngineError } from '../errors.js';

/** The level of a track among the others, or the gain of one of its clips. */
export interface LevelSetting {
  readonly trackId: string;
  readonly clipId?: string;
  readonly gainDb: number;
}

/** Levels of many tracks and clips at once: one step. */
export interface LevelsEdit {
  readonly type: 'set-levels';
  /** What for, in the history. */
  readonly title: string;
  readonly levels: readonly LevelSetting[];
}

export const isLevelsEdit = (edit: { readonly type: string }): edit is LevelsEdit => edit.type === 'set-levels';

/** Pure: the document after the edit. @throws {EngineError} `track-unknown`, `clip-unknown` */
export function editLevels(document: SessionDocument, { levels }: LevelsEdit): SessionDocument {
  return levels.reduce((before, { trackId, clipId, gainDb }) => {
    const track = before.tracks.find(({ id }) => id === trackId);
    if (!track) throw new EngineError('track-unknown', `This session has no track "${trackId}".`, { trackId });
    const next =
      clipId === undefined
        ? { ...track, gainDb: Math.max(TRACK_GAIN_DB.min, Math.min(TRACK_GAIN_DB.max, gainDb)) }
        : shapeClip(track, clipId, { gainDb });
    return { ...before, tracks: before.tracks.map((other) => (other === track ? next : other)) };
  }, document);
}
