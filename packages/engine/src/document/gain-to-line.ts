import { lineDb } from '../arrangement/levels.js';
import { shapeClip } from './clip-edits.js';
import { clipEnd, MOST_POINTS, offsetOf, type GainPoint } from './clip.js';
import type { Track } from './document.js';
import { EngineError } from '../errors.js';

/** What a treatment did to the level becomes points of the clips' gain lines, and the treatment goes: one step. */
export interface GainToLineEdit {
  readonly type: 'gain-to-line';
  readonly trackId: string;
  readonly treatmentId: string;
  /** Name of the treatment, for the history. */
  readonly title: string;
  /** In frames of the session, in their order. */
  readonly points: readonly { readonly frame: number; readonly gainDb: number }[];
}

/** Pure. @throws {EngineError} `treatment-missing`; `line-too-long` when a clip would have more than MOST_POINTS points */
export function gainToLine(track: Track, { treatmentId, points }: GainToLineEdit): Track {
  if (!track.chain.treatments.some(({ id }) => id === treatmentId))
    throw new EngineError('treatment-missing', `The chain of "${track.id}" has no treatment "${treatmentId}".`, { treatmentId });
  const within = track.clips.reduce((before, clip) => {
    const added = points.map(({ frame, gainDb }) => ({ frame: frame + offsetOf(clip), gainDb }));
    const first = Math.max(
      0,
      points.findLastIndex(({ frame }) => frame <= clip.startFrame),
    );
    const next = points.findIndex(({ frame }) => frame >= clipEnd(clip));
    const own = added.slice(first, next < 0 ? added.length : next + 1);
    const frames = [...new Set([...clip.line, ...own].map(({ frame }) => frame))].filter((frame) => frame >= 0).sort((a, b) => a - b);
    if (frames.length > MOST_POINTS)
      throw new EngineError(
        'line-too-long',
        `The gain line of a clip would have ${frames.length} points; ${MOST_POINTS} is the most. Split the clip first.`,
        { points: frames.length, most: MOST_POINTS },
      );
    const line = frames.map((frame): GainPoint => ({ frame, gainDb: lineDb(clip.line, frame) + lineDb(own, frame) }));
    return own.length === 0 ? before : shapeClip(before, clip.id, { line });
  }, track);
  return { ...within, chain: { ...track.chain, treatments: track.chain.treatments.filter(({ id }) => id !== treatmentId) } };
}
