import type { TreatmentSettings } from '@euphonos/dsp';
import { requireCover, type Cover } from '../delivery/cover.js';
import { requireTags, type Tags } from '../delivery/tags.js';
import { requireTarget, type DeliveryTarget } from '../delivery/targets.js';
import { EngineError } from '../errors.js';
import { editChains, isChainsEdit, withLinked, type ChainsEdit } from './chain-edits.js';
import { requireClip } from './clip-edits.js';
import { editClips, isClipsEdit, requireHeard, type ClipsEdit } from './clips-edit.js';
import { WHOLE, type NoiseSource, type SessionDocument, type Track } from './document.js';
import { gainToLine, type GainToLineEdit } from './gain-to-line.js';
import { layBed, type LayBedEdit } from './lay-bed.js';
import type { Span } from './span.js';
import type { TimelineEdit } from './timeline-edit.js';
import { editLevels, isLevelsEdit, type LevelsEdit } from './level-edits.js';
import { editMarks, isMarksEdit, type MarksEdit } from './mark-edits.js';
import { profileTracks, requireNoise, setWholeNoise } from './noise-edits.js';
import { editTracks, isTracksEdit, type TracksEdit } from './track-edits.js';
import { editTreatments, isTreatmentEdit, type TreatmentEdit } from './treatment-edits.js';
import { dropVersion, keepVersion, restoreVersion } from './version-edits.js';

/** Everything that can be done to a document, as data: it can be listed, repeated and undone. */
export type Edit =
  | ClipsEdit
  | TreatmentEdit
  | {
      /** Treatments for several tracks: one step. */
      readonly type: 'take-suggestions';
      readonly title: string;
      readonly items: readonly { readonly trackId: string; readonly treatmentId: string; readonly settings: TreatmentSettings }[];
    }
  | { readonly type: 'set-noise'; readonly trackId: string; readonly noise: NoiseSource | null }
  | { readonly type: 'set-whole-noise'; readonly spans: readonly Span[] }
  | { readonly type: 'hold-noise'; readonly trackId: string; readonly held: boolean }
  | { readonly type: 'profile-tracks'; readonly span: Span; readonly fromTrackId?: string }
  | TracksEdit
  | MarksEdit
  | ChainsEdit
  | LevelsEdit
  | GainToLineEdit
  | LayBedEdit
  | { readonly type: 'set-loop'; readonly trackId: string; readonly span: Span | null }
  | { readonly type: 'set-channels'; readonly trackId: string; readonly channels: readonly number[] }
  | { readonly type: 'keep-version'; readonly id: string; readonly name: string; readonly keptAt: string }
  | { readonly type: 'restore-version'; readonly id: string; readonly name: string }
  | { readonly type: 'drop-version'; readonly id: string; readonly name: string }
  | { readonly type: 'set-target'; readonly target: DeliveryTarget }
  | { readonly type: 'set-tags'; readonly tags: Tags }
  | { readonly type: 'set-cover'; readonly cover: Cover | null }
  | TimelineEdit;

/** Edits of the session as a whole. */
type WholeEdit = Extract<
  Edit,
  {
    type:
      | 'take-suggestions'
      | 'set-target'
      | 'set-tags'
      | 'set-cover'
      | 'take-timeline'
      | 'set-whole-noise'
      | 'profile-tracks'
      | 'keep-version'
      | 'restore-version'
      | 'drop-version';
  }
>;
type TrackEdit = Exclude<Edit, WholeEdit | ClipsEdit | TracksEdit | MarksEdit | ChainsEdit | LevelsEdit>;

/** The track of that id. @throws {EngineError} `track-unknown` */
export function requireTrack(document: SessionDocument, trackId: string): Track {
  const found = document.tracks.find(({ id }) => id === trackId);
  if (!found) throw new EngineError('track-unknown', `This session has no track "${trackId}".`, { trackId });
  return found;
}

/** Pure: the document after the edit. The document given is not changed. @throws {EngineError} */
export function applyEdit(document: SessionDocument, edit: Edit): SessionDocument {
  if (isTracksEdit(edit)) return editTracks(document, edit, 'trackId' in edit ? requireTrack(document, edit.trackId) : null);
  if (isMarksEdit(edit)) return editMarks(document, edit);
  if (isChainsEdit(edit)) return editChains(document, edit);
  if (isLevelsEdit(edit)) return editLevels(document, edit);
  if (isWhole(edit)) return editWhole(document, edit);
  if (edit.trackId === WHOLE && isTreatmentEdit(edit))
    return { ...document, chain: { treatments: editTreatments({ id: WHOLE, chain: document.chain }, edit) } };
  const before = requireTrack(document, edit.trackId);
  const after = isClipsEdit(edit) ? editClips(before, edit) : editTrack(before, edit);
  return withLinked(document, before, after);
}

const isWhole = (edit: Exclude<Edit, TracksEdit | MarksEdit | ChainsEdit | LevelsEdit>): edit is WholeEdit => !('trackId' in edit);

function editWhole(document: SessionDocument, edit: WholeEdit): SessionDocument {
  switch (edit.type) {
    case 'set-target':
      return { ...document, target: requireTarget(edit.target) };
    case 'set-cover':
      return { ...document, cover: requireCover(edit.cover) };
    case 'take-timeline': {
      const { type: _, name: __, ...parts } = edit;
      return { ...document, ...parts };
    }
    case 'set-tags':
      return { ...document, tags: requireTags(edit.tags) };
    case 'take-suggestions':
      return edit.items.reduce((before, item) => applyEdit(before, { type: 'take-suggestion', title: edit.title, ...item }), document);
    case 'set-whole-noise':
      return setWholeNoise(document, edit.spans);
    case 'profile-tracks':
      return profileTracks(document, edit.span, edit.fromTrackId);
    case 'keep-version':
      return keepVersion(document, edit);
    case 'restore-version':
      return restoreVersion(document, edit.id);
    case 'drop-version':
      return dropVersion(document, edit.id);
  }
}

function editTrack(track: Track, edit: TrackEdit): Track {
  switch (edit.type) {
    case 'set-noise':
      return { ...track, noise: requireNoise(track, edit.noise) };
    case 'hold-noise':
      return { ...track, noiseHeld: edit.held };
    case 'set-loop':
      return { ...track, loop: requireHeard(track, edit.span) };
    case 'set-channels':
      return { ...track, reel: track.reel.map((part) => ({ ...part, channels: edit.channels })) };
    case 'lay-bed':
      return layBed(track, edit);
    case 'gain-to-line':
      // The others that share its chain keep the treatment.
      return { ...gainToLine(track, edit), chainLink: null };
    default:
      return 'clipId' in edit && edit.clipId !== undefined
        ? editClipChain(track, edit.clipId, edit)
        : { ...track, chain: { treatments: editTreatments(track, edit) } };
  }
}

/** The chain of one clip; without a treatment left it has none. */
function editClipChain(track: Track, clipId: string, edit: TreatmentEdit): Track {
  const { clip } = requireClip(track, clipId);
  const treatments = editTreatments({ id: clip.id, chain: clip.chain ?? { treatments: [] } }, edit);
  return {
    ...track,
    clips: track.clips.map((other) => (other === clip ? { ...clip, chain: treatments.length === 0 ? null : { treatments } } : other)),
  };
}
