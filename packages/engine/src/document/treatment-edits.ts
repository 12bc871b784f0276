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
import { EngineError } from '../errors.js';
import type { Track } from './document.js';

/** What can be done to the treatments of a chain: of a track, of one of its clips, or of the whole. */
export type TreatmentEdit =
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
  | { readonly type: 'add-spot'; readonly trackId: string; readonly treatmentId: string; readonly afterId: string; readonly spot: ListRow };

const kinds: ReadonlySet<string> = new Set<TreatmentEdit['type']>([
  'add-treatment',
  'remove-treatment',
  'move-treatment',
  'bypass-treatment',
  'reset-treatment',
  'set-parameter',
  'set-parameters',
  'take-suggestion',
  'add-spot',
]);
export const isTreatmentEdit = (edit: { readonly type: string }): edit is TreatmentEdit => kinds.has(edit.type);

function requireTreatment(track: Pick<Track, 'id' | 'chain'>, treatmentId: string): TreatmentSettings {
  const found = track.chain.treatments.find(({ id }) => id === treatmentId);
  if (!found) throw new EngineError('treatment-missing', `The chain of "${track.id}" has no treatment "${treatmentId}".`, { treatmentId });
  return found;
}

/** The treatments of a chain after the edit. @throws {EngineError} `treatment-missing`, `document-shape` */
export function editTreatments(track: Pick<Track, 'id' | 'chain'>, edit: TreatmentEdit): TreatmentSettings[] {
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
  { spot, treatmentId }: Extract<TreatmentEdit, { type: 'add-spot' }>,
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
  { settings, treatmentId }: Extract<TreatmentEdit, { type: 'take-suggestion' }>,
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
