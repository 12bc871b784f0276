import { treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import { describeChainsEdit, isChainsEdit } from './chain-edits.js';
import { clipsGesture, describeClipsEdit, isClipsEdit } from './clips-edit.js';
import { WHOLE, type NoiseSource, type SessionDocument } from './document.js';
import { requireTrack, type Edit } from './edits.js';
import { isLevelsEdit } from './level-edits.js';
import { describeMarksEdit, isMarksEdit } from './mark-edits.js';
import { describeTracksEdit, isTracksEdit, type TracksEdit } from './track-edits.js';

/** An edit in a few words, for the list of what was done. `document` is the one after the edit (before, for removals). */
export function describeEdit(document: SessionDocument, edit: Edit): string {
  if (isClipsEdit(edit)) return describeClipsEdit(edit);
  if (isTracksEdit(edit)) return describeTracksEdit(edit, nameOf(document, edit));
  if (isMarksEdit(edit))
    return describeMarksEdit(edit, ('id' in edit ? document.marks.find(({ id }) => id === edit.id)?.name : undefined) ?? '');
  if (isChainsEdit(edit))
    return describeChainsEdit(
      edit,
      edit.trackIds.flatMap((id) => document.tracks.find((track) => track.id === id)?.name ?? []),
    );
  if (isLevelsEdit(edit)) return edit.title;
  switch (edit.type) {
    case 'set-target':
      return edit.target.integratedLufs === null ? 'Target: level as it is' : `Target ${edit.target.integratedLufs} LUFS`;
    case 'take-timeline':
      return `Timeline ${edit.name}`;
    case 'set-cover':
      return edit.cover ? 'Cover' : 'No cover of its own';
    case 'set-tags':
      return 'What files say of themselves';
    case 'keep-version':
      return `Keep version ${edit.name}`;
    case 'restore-version':
      return `Restore version ${edit.name}`;
    case 'drop-version':
      return `Drop version ${edit.name}`;
    case 'set-noise':
      return describeNoise(edit.noise);
    case 'set-whole-noise':
      return `Whole, ${describeNoise(edit.spans.length === 0 ? null : { kind: 'passages', spans: edit.spans })}`;
    case 'profile-tracks':
      return 'Take noise profiles of all tracks';
    case 'add-spot':
      return 'Second pass in a box';
    case 'hold-noise':
      return edit.held ? 'Hold the noise profile' : 'Let the noise profile go';
    case 'set-loop':
      return edit.span ? 'Set loop' : 'Clear loop';
    case 'lay-bed':
      return edit.title;
    case 'gain-to-line':
      return `${edit.title} as a gain line`;
    case 'set-channels':
      return `Use channel ${edit.channels.map((c) => c + 1).join(' and ')}`;
    case 'add-treatment':
      return `${edit.trackId === WHOLE ? 'Whole, ' : edit.clipId === undefined ? '' : 'Clip, '}Add ${treatmentOf(edit.kind).title}`;
    case 'take-suggestions':
      return edit.title;
    case 'take-suggestion':
      return `Take: ${edit.title}`;
    default: {
      if (edit.trackId === WHOLE) {
        const settings = document.chain.treatments.find(({ id }) => id === edit.treatmentId);
        return `Whole, ${settings ? describeTreatmentEdit(settings, edit) : 'change the chain'}`;
      }
      const track = requireTrack(document, edit.trackId);
      const own = 'clipId' in edit && edit.clipId !== undefined ? track.clips.find(({ id }) => id === edit.clipId)?.chain : track.chain;
      const settings = own?.treatments.find(({ id }) => id === edit.treatmentId);
      const words = settings ? describeTreatmentEdit(settings, edit) : 'Change the chain';
      return own === track.chain ? words : `Clip, ${words}`;
    }
  }
}

/** A track that was removed has no name any more. */
const nameOf = ({ tracks }: SessionDocument, edit: TracksEdit): string =>
  ('trackId' in edit ? tracks.find(({ id }) => id === edit.trackId)?.name : undefined) ?? 'a track';

function describeNoise(noise: NoiseSource | null): string {
  if (!noise) return 'Drop noise profile';
  if (noise.kind === 'kept') return `Noise profile: ${noise.name}`;
  if (noise.each) return 'Noise of each recording by itself';
  return noise.spans.length === 1 ? 'Take noise profile' : `Noise profile of ${noise.spans.length} passages`;
}

function describeTreatmentEdit(settings: TreatmentSettings, edit: Edit): string {
  const { title, parameters, choices, lists } = treatmentOf(settings.kind);
  switch (edit.type) {
    case 'remove-treatment':
      return `Remove ${title}`;
    case 'move-treatment':
      return `Move ${title}`;
    case 'bypass-treatment':
      return `${edit.bypassed ? 'Bypass' : 'Use'} ${title}`;
    case 'reset-treatment':
      return `Reset ${title}`;
    case 'set-parameter': {
      const list = lists?.[edit.name];
      if (list) return `${title}: ${list.title.toLowerCase()}`;
      const choice = choices?.[edit.name];
      if (choice) return `${title}: ${choice.options.find(({ value }) => value === settings[edit.name])?.title ?? String(edit.value)}`;
      const spec = parameters[edit.name];
      const unit = !spec || spec.unit === 'count' ? '' : ` ${spec.unit}`;
      return `${title}: ${spec?.title ?? edit.name} ${String(settings[edit.name])}${unit}`;
    }
    case 'set-parameters': {
      const [first] = Object.keys(edit.values).filter((name) => !lists?.[name]);
      return first ? describeTreatmentEdit(settings, { ...edit, type: 'set-parameter', name: first, value: edit.values[first]! }) : title;
    }
    default:
      return title;
  }
}

/** Edits with the same key that follow each other are one step of the history: one drag of a ruler, say. */
export function gestureKey(edit: Edit): string | null {
  if (isClipsEdit(edit)) return clipsGesture(edit);
  if (edit.type === 'set-parameter') return `${edit.trackId}/${edit.clipId ?? ''}/${edit.treatmentId}/${edit.name}`;
  if (edit.type === 'set-parameters')
    return `${edit.trackId}/${edit.clipId ?? ''}/${edit.treatmentId}/${Object.keys(edit.values).join('+')}`;
  if (edit.type === 'set-track') return edit.gainDb === undefined && edit.pan === undefined ? null : `${edit.trackId}/mix`;
  if (edit.type === 'set-mark') return `${edit.id}/${Object.keys(edit.set).join('+')}`;
  if (edit.type === 'shift-track') return `${edit.trackId}/shift`;
  // An edge of a passage that is dragged is one step.
  if (edit.type === 'set-noise') return edit.noise?.kind === 'passages' ? `${edit.trackId}/noise/${edit.noise.spans.length}` : null;
  if (edit.type === 'set-whole-noise') return `whole/noise/${edit.spans.length}`;
  if (edit.type === 'set-loop') return `${edit.trackId}/loop`;
  return edit.type === 'set-target' || edit.type === 'set-tags' ? edit.type : null;
}
