import type { SettingValue } from '../treatments/definition.js';
import { treatmentOf, type TreatmentKind } from '../treatments/registry.js';
import type { ChainSpec, TreatmentSettings } from './chain-spec.js';
import { sameValues } from './same-values.js';

/** Settings of a treatment that name times of the recording: they mean nothing in another one. */
export const timedLists = (kind: TreatmentKind): string[] =>
  Object.entries(treatmentOf(kind).lists ?? {}).flatMap(([name, { fields }]) =>
    fields && ('startSeconds' in fields || 'atSeconds' in fields) ? [name] : [],
  );

const withLists = (settings: TreatmentSettings, value: (name: string) => SettingValue): TreatmentSettings => ({
  ...settings,
  ...Object.fromEntries(timedLists(settings.kind).map((name) => [name, value(name)])),
});

/** A chain for other recordings: without the times that it names, and without spots, which are nothing but such times. */
export const portableChain = ({ treatments }: ChainSpec): ChainSpec => ({
  treatments: treatments.filter(({ kind }) => kind !== 'spots').map((settings) => withLists(settings, () => [])),
});

/**
 * `chain` for a recording that had `own`: its settings, with the times (breaths that are left alone, pauses, spots) that were named in the
 * own one. Treatments are told apart by their kind and their place among those of it.
 */
export function chainKeepingTimes(chain: ChainSpec, own: ChainSpec): ChainSpec {
  const seen = new Map<TreatmentKind, number>();
  const treatments = portableChain(chain).treatments.map((settings) => {
    const nth = seen.get(settings.kind) ?? 0;
    seen.set(settings.kind, nth + 1);
    const before = own.treatments.filter(({ kind }) => kind === settings.kind)[nth];
    return before ? withLists(settings, (name) => before[name] as SettingValue) : settings;
  });
  const spots = own.treatments.filter(({ kind }) => kind === 'spots');
  if (spots.length === 0) return { treatments };
  // Spots keep their place before or behind the noise reduction: behind it they are a second pass.
  const second = (of: TreatmentSettings): boolean =>
    own.treatments.findIndex(({ kind }) => kind === 'noise-reduction') >= 0 &&
    own.treatments.indexOf(of) > own.treatments.findIndex(({ kind }) => kind === 'noise-reduction');
  const behind = treatments.findIndex(({ kind }) => kind === 'noise-reduction') + 1;
  const ids = new Set(treatments.map(({ id }) => id));
  const free = spots.map((spot) => (spot.id !== undefined && ids.has(spot.id) ? { ...spot, id: `${spot.id}'` } : spot));
  return {
    treatments: [
      ...free.filter((_, i) => !second(spots[i]!)),
      ...treatments.slice(0, behind),
      ...free.filter((_, i) => second(spots[i]!)),
      ...treatments.slice(behind),
    ],
  };
}

/** One thing in which two chains differ, for a reader. */
export interface ChainDifference {
  /** Title of the treatment. */
  readonly treatment: string;
  /** "only here", "only there", "bypassed here", or the title of a setting. */
  readonly what: string;
  readonly here: string;
  readonly there: string;
}

/** In what two chains differ, times aside, in the order of the first. */
export function chainDifferences(here: ChainSpec, there: ChainSpec): ChainDifference[] {
  const [a, b] = [portableChain(here).treatments, portableChain(there).treatments];
  const taken = new Set<TreatmentSettings>();
  const found: ChainDifference[] = [];
  for (const settings of a) {
    const other = b.find((candidate) => candidate.kind === settings.kind && !taken.has(candidate));
    const { title } = treatmentOf(settings.kind);
    if (!other) found.push({ treatment: title, what: 'only here', here: summaryOf(settings), there: '' });
    else {
      taken.add(other);
      found.push(...differencesOf(settings, other));
    }
  }
  for (const other of b)
    if (!taken.has(other)) found.push({ treatment: treatmentOf(other.kind).title, what: 'only there', here: '', there: summaryOf(other) });
  return found;
}

const summaryOf = (settings: TreatmentSettings): string =>
  settings.bypassed ? 'bypassed' : treatmentOf(settings.kind).summary(settings as never);

function differencesOf(a: TreatmentSettings, b: TreatmentSettings): ChainDifference[] {
  const { title, parameters, choices, lists } = treatmentOf(a.kind);
  const found: ChainDifference[] = [];
  if (a.bypassed !== b.bypassed)
    found.push({ treatment: title, what: 'in use', here: a.bypassed ? 'no' : 'yes', there: b.bypassed ? 'no' : 'yes' });
  if (sameValues(a, b)) return found;
  for (const [name, { title: what, unit }] of Object.entries(parameters)) {
    const say = (value: unknown): string => `${String(value)}${unit === 'count' ? '' : ` ${unit}`}`;
    if (a[name] !== b[name]) found.push({ treatment: title, what, here: say(a[name]), there: say(b[name]) });
  }
  for (const [name, { title: what, options }] of Object.entries(choices ?? {})) {
    const say = (value: unknown): string => options.find((option) => option.value === value)?.title ?? String(value);
    if (a[name] !== b[name]) found.push({ treatment: title, what, here: say(a[name]), there: say(b[name]) });
  }
  for (const [name, { title: what }] of Object.entries(lists ?? {})) {
    const count = (value: unknown): string => `${(value as readonly unknown[]).length}`;
    if (JSON.stringify(a[name]) !== JSON.stringify(b[name]))
      found.push({ treatment: title, what, here: count(a[name]), there: count(b[name]) });
  }
  return found;
}
