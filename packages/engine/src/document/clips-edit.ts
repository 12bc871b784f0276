import { endOf } from '../arrangement/places.js';
import { EngineError } from '../errors.js';
import type { Clip, ClipSound } from './clip.js';
import { cutSpans, fillSpans, joinWithin, levelSpans, shapeClip, splitAt } from './clip-edits.js';
import { giveBack, moveClips, moveJoint, moveSpan, pasteClips, trimClip, type CopiedClips } from './clip-moves.js';
import type { Track } from './document.js';
import type { Span } from './span.js';
import { requireSpan } from './spans.js';

interface OfTrack {
  readonly trackId: string;
}

/** What can be done to the clips of a track. Frames are those of the session; `title` says in the history what for. */
export type ClipsEdit = OfTrack &
  (
    | { readonly type: 'split-clips'; readonly frames: readonly number[] }
    | { readonly type: 'join-clips'; readonly span: Span }
    | { readonly type: 'cut-spans'; readonly spans: readonly Span[]; readonly close: boolean; readonly title?: string }
    | {
        readonly type: 'fill-spans';
        readonly spans: readonly (Span & { readonly sound: ClipSound })[];
        readonly roomTone?: Span;
        readonly title?: string;
      }
    | { readonly type: 'level-spans'; readonly spans: readonly Span[]; readonly byDb: number }
    | {
        readonly type: 'shape-clip';
        readonly clipId: string;
        readonly shape: Partial<Pick<Clip, 'gainDb' | 'line' | 'fadeIn' | 'fadeOut'>>;
      }
    | { readonly type: 'trim-clip'; readonly clipId: string; readonly edge: 'start' | 'end'; readonly toFrame: number }
    | { readonly type: 'move-joint'; readonly clipId: string; readonly toFrame: number }
    | { readonly type: 'move-clips'; readonly clipIds: readonly string[]; readonly byFrames: number }
    | { readonly type: 'paste-clips'; readonly copied: CopiedClips; readonly atFrame: number }
    | { readonly type: 'move-span'; readonly span: Span; readonly toFrame: number }
    | { readonly type: 'give-back'; readonly clipId: string; readonly side: 'before' | 'after' }
    | { readonly type: 'set-room-tone'; readonly span: Span | null }
  );

const kinds: ReadonlySet<string> = new Set<ClipsEdit['type']>([
  'split-clips',
  'join-clips',
  'cut-spans',
  'fill-spans',
  'level-spans',
  'shape-clip',
  'trim-clip',
  'move-joint',
  'move-clips',
  'paste-clips',
  'move-span',
  'give-back',
  'set-room-tone',
]);
export const isClipsEdit = (edit: { readonly type: string }): edit is ClipsEdit => kinds.has(edit.type);

/** Pure: the track after the edit. @throws {EngineError} */
export function editClips(track: Track, edit: ClipsEdit): Track {
  switch (edit.type) {
    case 'split-clips':
      return splitAt(track, edit.frames.map(Math.round));
    case 'join-clips':
      return joinWithin(track, [edit.span]);
    case 'cut-spans':
      return cutSpans(track, edit.spans, edit.close);
    case 'fill-spans':
      // The passage of the room tone comes with the first use of it.
      if (!track.roomTone && edit.roomTone) return editClips({ ...track, roomTone: requireSpan(track, edit.roomTone) }, edit);
      if (!track.roomTone && edit.spans.some(({ sound }) => sound.kind === 'room-tone'))
        throw new EngineError('tone-missing', 'There is no room tone yet: choose the passage that it is made of first.');
      return fillSpans(track, edit.spans);
    case 'level-spans':
      return levelSpans(track, edit.spans, edit.byDb);
    case 'shape-clip':
      return shapeClip(track, edit.clipId, edit.shape);
    case 'trim-clip':
      return trimClip(track, edit.clipId, edit.edge, edit.toFrame);
    case 'move-joint':
      return moveJoint(track, edit.clipId, edit.toFrame);
    case 'move-clips':
      return moveClips(track, edit.clipIds, edit.byFrames);
    case 'paste-clips':
      return pasteClips(track, edit.copied, edit.atFrame);
    case 'move-span':
      return moveSpan(track, edit.span, edit.toFrame);
    case 'give-back':
      return giveBack(track, edit.clipId, edit.side);
    case 'set-room-tone':
      return { ...track, roomTone: requireSpan(track, edit.span) };
  }
}

/** A span that lies in what a track makes, or none. @throws {EngineError} `span-outside` */
export function requireHeard({ clips }: Pick<Track, 'clips'>, span: Span | null): Span | null {
  const end = endOf(clips);
  if (span && !(span.startFrame >= 0 && span.endFrame <= end && span.startFrame < span.endFrame))
    throw new EngineError(
      'span-outside',
      `A span from frame ${span.startFrame} to ${span.endFrame} does not lie in the track (0 to ${end}).`,
      { span, end },
    );
  return span;
}

const places = (count: number): string => (count === 1 ? '1 place' : `${count} places`);
const signed = (db: number): string => `${db > 0 ? '+' : ''}${db} dB`;

/** An edit of clips in a few words. */
export function describeClipsEdit(edit: ClipsEdit): string {
  switch (edit.type) {
    case 'split-clips':
      return edit.frames.length > 1 ? `Split at ${edit.frames.length} places` : 'Split';
    case 'join-clips':
      return 'Join';
    case 'cut-spans':
      return (
        edit.title ??
        (edit.spans.length === 1 ? (edit.close ? 'Cut and close up' : 'Cut, leaving a gap') : `Cut ${places(edit.spans.length)}`)
      );
    case 'fill-spans': {
      const [sound] = edit.spans.map(({ sound: { kind } }) => kind);
      const word = sound === 'silence' ? 'Silence' : sound === 'room-tone' ? 'Room tone' : 'Give back the recording';
      return edit.title ?? (edit.spans.length === 1 ? word : `${word} in ${places(edit.spans.length)}`);
    }
    case 'level-spans':
      return `${edit.byDb < 0 ? 'Lower' : 'Raise'} ${edit.spans.length === 1 ? 'a span' : places(edit.spans.length)} ${signed(edit.byDb)}`;
    case 'shape-clip': {
      const { gainDb, line, fadeIn, fadeOut } = edit.shape;
      if (gainDb !== undefined) return `Clip gain ${signed(gainDb)}`;
      if (line) return line.length === 0 ? 'Clear the gain line' : 'Gain line';
      return fadeIn && fadeOut ? 'Crossfade' : fadeIn ? 'Fade in' : 'Fade out';
    }
    case 'trim-clip':
      return edit.edge === 'start' ? 'Trim the beginning' : 'Trim the end';
    case 'move-joint':
      return 'Move a joint';
    case 'move-clips':
      return edit.clipIds.length === 1 ? 'Move a clip' : `Move ${edit.clipIds.length} clips`;
    case 'paste-clips':
      return 'Paste';
    case 'move-span':
      return 'Move a span';
    case 'give-back':
      return 'Give back';
    case 'set-room-tone':
      return edit.span ? 'Take room tone' : 'Drop room tone';
  }
}

/** Edits of one drag are one step. */
export function clipsGesture(edit: ClipsEdit): string | null {
  if (edit.type === 'shape-clip') return `${edit.trackId}/${edit.clipId}/${Object.keys(edit.shape).join('+')}`;
  if (edit.type === 'trim-clip') return `${edit.trackId}/${edit.clipId}/${edit.edge}`;
  return edit.type === 'move-joint' ? `${edit.trackId}/${edit.clipId}/joint` : null;
}
