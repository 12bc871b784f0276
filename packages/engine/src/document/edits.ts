import {
  defaultTreatment,
  MAX_TREATMENTS,
  parseChain,
  parseSetting,
  settingNames,
  treatmentKinds,
  treatmentOf,
  type ListRow,
  type SettingValue,
  type TreatmentKind,
  type TreatmentSettings,
} from '@euphonos/dsp';
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
import { dropVersion, keepVersion, restoreVersion } from './version-edits.js';

/** Everything that can be done to a document, as data: it can be listed, repeated and undone. */
export type Edit =
  | ClipsEdit
  | {
      readonly type: 'add-treatment';
      readonly trackId: string;
      readonly clipId?: string;
      readonly kind: TreatmentKind;
      readonly treatmentId: string;
    }
  | { readonly type: 'remove-treatment'; readonly trackId: string; readonly clipId?: string; readonly treatmentId: string }
  | {
      readonly type: 'move-treatment';
      readonly trackId: string;
      readonly clipId?: string;
      readonly treatmentId: string;
      readonly toIndex: number;
    }
  | {
      readonly type: 'bypass-treatment';
      readonly trackId: string;
      readonly clipId?: string;
      readonly treatmentId: string;
      readonly bypassed: boolean;
    }
  | { readonly type: 'reset-treatment'; readonly trackId: string; readonly clipId?: string; readonly treatmentId: string }
  | {
      readonly type: 'set-parameter';
      readonly trackId: string;
      readonly clipId?: string;
      readonly treatmentId: string;
      readonly name: string;
      readonly value: SettingValue;
    }
  | {
      readonly type: 'set-parameters';
      readonly trackId: string;
      readonly clipId?: string;
      readonly treatmentId: string;
      readonly values: Readonly<Record<string, SettingValue>>;
    }
  | {
      readonly type: 'take-suggestion';
      readonly trackId: string;
      readonly treatmentId: string;
      readonly title: string;
      readonly settings: TreatmentSettings;
    }
  | {
      /** Treatments for several tracks: one step. */
      readonly type: 'take-suggestions';
      readonly title: string;
      readonly items: readonly { readonly trackId: string; readonly treatmentId: string; readonly settings: TreatmentSettings }[];
    }
  | { readonly type: 'add-spot'; readonly trackId: string; readonly treatmentId: string; readonly afterId: string; readonly spot: ListRow }
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

function requireTreatment(track: Pick<Track, 'id' | 'chain'>, treatmentId: string): TreatmentSettings {
  const found = track.chain.treatments.find(({ id }) => id === treatmentId);
  if (!found) throw new EngineError('treatment-missing', `The chain of "${track.id}" has no treatment "${treatmentId}".`, { treatmentId });
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

type TreatmentEdit = Exclude<TrackEdit, { type: 'set-noise' | 'hold-noise' | 'set-loop' | 'set-channels' | 'gain-to-line' | 'lay-bed' }>;
const OF_TRACK: ReadonlySet<string> = new Set(['set-noise', 'hold-noise', 'set-loop', 'set-channels', 'gain-to-line', 'lay-bed']);
const isTreatmentEdit = (edit: Edit): edit is TreatmentEdit =>
  'trackId' in edit && !OF_TRACK.has(edit.type) && !isClipsEdit(edit) && !isTracksEdit(edit) && !isMarksEdit(edit);

/** The chain of one clip; without a treatment left it has none. */
function editClipChain(track: Track, clipId: string, edit: TreatmentEdit): Track {
  const { clip } = requireClip(track, clipId);
  const treatments = editTreatments({ id: clip.id, chain: clip.chain ?? { treatments: [] } }, edit);
  return {
    ...track,
    clips: track.clips.map((other) => (other === clip ? { ...clip, chain: treatments.length === 0 ? null : { treatments } } : other)),
  };
}

function editTreatments(track: Pick<Track, 'id' | 'chain'>, edit: TreatmentEdit): TreatmentSettings[] {
  const list = [...track.chain.treatments];
  if (edit.type === 'add-treatment') {
    requireRoom(list);
    return placed(list, { ...defaultTreatment(edit.kind), id: edit.treatmentId });
  }
  if (edit.type === 'take-suggestion') return takeSuggestion(list, edit);
  if (edit.type === 'add-spot') return addSpot(list, requireAt(track, edit.afterId), edit);
  const treatment = requireTreatment(track, edit.treatmentId);
  const replace = (next: TreatmentSettings): TreatmentSettings[] => list.map((other) => (other === treatment ? next : other));
  switch (edit.type) {
    case 'remove-treatment':
      return list.filter((other) => other !== treatment);
    case 'move-treatment': {
      const rest = list.filter((other) => other !== treatment);
      rest.splice(Math.max(0, Math.min(rest.length, edit.toIndex)), 0, treatment);
      return rest;
    }
    case 'bypass-treatment':
      return replace({ ...treatment, bypassed: edit.bypassed });
    case 'reset-treatment':
      return replace({ ...treatment, ...defaultTreatment(treatment.kind), bypassed: treatment.bypassed });
    case 'set-parameter':
      return replace(setParameter(treatment, edit.name, edit.value));
    case 'set-parameters':
      return replace(Object.entries(edit.values).reduce((settings, [name, value]) => setParameter(settings, name, value), treatment));
  }
}

const requireAt = (track: Pick<Track, 'id' | 'chain'>, treatmentId: string): number =>
  track.chain.treatments.indexOf(requireTreatment(track, treatmentId));

/** A second pass: the spot joins spots that sound after the treatment at `after`; where there are none, they come in right behind it. */
function addSpot(
  list: readonly TreatmentSettings[],
  after: number,
  { spot, treatmentId }: Extract<Edit, { type: 'add-spot' }>,
): TreatmentSettings[] {
  const known = list.find(({ kind, bypassed }, i) => i > after && kind === 'spots' && !bypassed);
  const add = (to: TreatmentSettings): TreatmentSettings => setParameter(to, 'spots', [...(to['spots'] as readonly ListRow[]), spot]);
  if (known) return list.map((other) => (other === known ? add(known) : other));
  requireRoom(list);
  return [...list.slice(0, after + 1), add({ ...defaultTreatment('spots'), id: treatmentId }), ...list.slice(after + 1)];
}

function requireRoom(list: readonly TreatmentSettings[]): void {
  if (list.length >= MAX_TREATMENTS)
    throw new EngineError('document-shape', `A chain holds up to ${MAX_TREATMENTS} treatments; remove one first.`);
}

/** Where a treatment stands in the usual order of work: in what order they are registered. */
const orderOf = ({ kind }: TreatmentSettings): number => treatmentKinds.indexOf(kind);

/**
 * Settings that a survey suggests. The first treatment of that kind takes them and is switched on; where there is
 * none, one comes in at its place in the usual order of work.
 */
function takeSuggestion(
  list: readonly TreatmentSettings[],
  { settings, treatmentId }: Extract<Edit, { type: 'take-suggestion' }>,
): TreatmentSettings[] {
  const { id: _, ...wanted } = parseChain({ treatments: [settings] }).treatments[0]!;
  const known = list.find(({ kind }) => kind === settings.kind);
  if (known)
    return list.map((other) => (other === known ? { ...other, ...together(known, wanted as TreatmentSettings), bypassed: false } : other));
  requireRoom(list);
  return placed(list, { ...wanted, bypassed: false, id: treatmentId });
}

/** The list with one more, at its place in the usual order of work. */
function placed(list: readonly TreatmentSettings[], treatment: TreatmentSettings): TreatmentSettings[] {
  const place = list.findIndex((other) => orderOf(other) > orderOf(treatment));
  const at = place < 0 ? list.length : place;
  return [...list.slice(0, at), treatment, ...list.slice(at)];
}

/** Bands of tone come beside those that are there already; everything else is set as suggested. */
function together(known: TreatmentSettings, wanted: TreatmentSettings): TreatmentSettings {
  if (wanted.kind !== 'tone') return wanted;
  const bands = [...(known['bands'] as readonly ListRow[]), ...(wanted['bands'] as readonly ListRow[])];
  return { ...wanted, bands: bands.filter((band, i) => bands.findIndex((other) => JSON.stringify(other) === JSON.stringify(band)) === i) };
}

/** A number is held within its range, and parameters that must agree follow it; words and lists must be right. */
function setParameter(treatment: TreatmentSettings, name: string, value: SettingValue): TreatmentSettings {
  const definition = treatmentOf(treatment.kind);
  if (!settingNames(definition).includes(name))
    throw new EngineError('treatment-missing', `${definition.title} has no parameter "${name}".`, { name });
  const spec = definition.parameters[name];
  if (!spec || typeof value !== 'number') return { ...treatment, [name]: parseSetting(definition, name, value) };
  const steps = Math.round((Math.max(spec.min, Math.min(spec.max, value)) - spec.min) / spec.step);
  const snapped = Number((spec.min + steps * spec.step).toFixed(6));
  const next = { ...treatment, [name]: Math.min(spec.max, snapped) } as unknown as Parameters<NonNullable<typeof definition.reconcile>>[0];
  return (definition.reconcile?.(next, name) ?? next) as unknown as TreatmentSettings;
}
