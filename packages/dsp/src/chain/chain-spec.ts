import { DspError } from '../errors.js';
import { defaultValues, settingNames, type ParameterValues, type SettingValue } from '../treatments/definition.js';
import { findTreatment, treatmentKinds, type TreatmentKind } from '../treatments/registry.js';
import { parseSetting } from './parse-setting.js';

/** One treatment of a chain as it is stored: `{ kind, bypassed, …parameters }`. */
export interface TreatmentSettings {
  readonly kind: TreatmentKind;
  readonly bypassed: boolean;
  /** Names the treatment while it is moved about; any text, unique in its chain. */
  readonly id?: string;
  readonly [setting: string]: SettingValue | boolean | undefined;
}

/** A chain as sessions store it and as the command line reads it. */
export interface ChainSpec {
  readonly treatments: readonly TreatmentSettings[];
  /** For listening only, never stored: gives what the treatment of this id takes out, alone. */
  readonly alone?: string;
}

export const MAX_TREATMENTS = 32;

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

/** A new treatment with its defaults. */
export function defaultTreatment(kind: TreatmentKind): TreatmentSettings {
  return { kind, bypassed: false, ...defaultValues(findTreatment(kind)!) };
}

/** Whether it weighs by a noise profile as it is set: it does not sound without one. */
export function needsProfile(settings: TreatmentSettings): boolean {
  const { needsNoiseProfile, worksWithoutProfile } = findTreatment(settings.kind)!;
  return needsNoiseProfile && !worksWithoutProfile?.(parametersOf(settings));
}

/** What is set of one treatment, without kind, id and bypass. */
export function parametersOf(settings: TreatmentSettings): ParameterValues {
  return Object.fromEntries(settingNames(findTreatment(settings.kind)!).map((name) => [name, settings[name]])) as ParameterValues;
}

/**
 * Reads a chain from untrusted JSON. A parameter left out takes its default; `bypassed` left out is false.
 * @param stored of a session: what is left out was not known when it was stored, and stays as it was then.
 * @throws {DspError} `chain-shape`, `treatment-unknown`, `parameter-unknown`, `parameter-type`,
 *   `parameter-range` or `parameter-conflict`.
 */
export function parseChain(json: unknown, stored = false): ChainSpec {
  if (!isRecord(json) || !Array.isArray(json['treatments']))
    throw new DspError('chain-shape', 'A chain is an object { "treatments": [ … ] }; this is something else.');
  const extra = Object.keys(json).find((key) => key !== 'treatments');
  if (extra !== undefined) throw new DspError('chain-shape', `A chain holds "treatments" only, not "${extra}".`);
  const list = json['treatments'] as unknown[];
  if (list.length > MAX_TREATMENTS)
    throw new DspError('chain-shape', `A chain holds up to ${MAX_TREATMENTS} treatments; this has ${list.length}.`);
  const treatments = list.map((treatment, i) => parseTreatment(treatment, i, stored));
  const ids = treatments.flatMap(({ id }) => (id === undefined ? [] : [id]));
  if (new Set(ids).size !== ids.length) throw new DspError('chain-shape', 'Two treatments of the chain have the same id.');
  return { treatments };
}

function parseTreatment(json: unknown, index: number, stored: boolean): TreatmentSettings {
  if (!isRecord(json)) throw new DspError('chain-shape', `Treatment ${index + 1} is not an object { "kind": … }.`);
  const { kind, bypassed = false, id, ...given } = json;
  const definition = typeof kind === 'string' ? findTreatment(kind) : undefined;
  if (!definition)
    throw new DspError(
      'treatment-unknown',
      `Treatment ${index + 1} is of the kind ${JSON.stringify(kind)}; known are ${treatmentKinds.join(', ')}.`,
      { kind },
    );
  if (typeof bypassed !== 'boolean')
    throw new DspError('parameter-type', `"bypassed" of ${definition.kind} is true or false, not ${JSON.stringify(bypassed)}.`);
  if (id !== undefined && (typeof id !== 'string' || id.length > 64))
    throw new DspError('parameter-type', `"id" of ${definition.kind} is a text of up to 64 characters.`);
  const names = settingNames(definition);
  for (const name of Object.keys(given))
    if (!names.includes(name))
      throw new DspError('parameter-unknown', `${definition.kind} has no parameter "${name}"; it has ${names.join(', ')}.`, { kind, name });
  const values = { ...defaultValues(definition), ...(stored ? definition.formerly : {}) };
  for (const name of names) if (given[name] !== undefined) values[name] = parseSetting(definition, name, given[name]);
  const conflict = definition.conflict?.(values as ParameterValues);
  if (conflict) throw new DspError('parameter-conflict', conflict, { kind });
  return { kind: definition.kind, bypassed, ...(id === undefined ? {} : { id }), ...values };
}

/**
 * Names all that what a chain remembers depends on (`TreatmentDefinition.remembers`), beside the sound and the noise profile: what
 * sounds, up to the last treatment that remembers. Empty when none does.
 */
export function memoryKey({ treatments, alone }: ChainSpec): string {
  const sounding = treatments.filter(({ bypassed }) => !bypassed);
  const last = sounding.findLastIndex(({ kind }) => findTreatment(kind)!.remembers === true);
  return last < 0 ? '' : JSON.stringify([alone ?? null, sounding.slice(0, last + 1)]);
}

/**
 * A chain where nothing can be loaded or prepared beforehand (on a clip, on the whole): deep noise reduction is the full one there, for
 * the ear and in a render alike.
 */
export function withoutDeep(spec: ChainSpec): ChainSpec {
  const deep = ({ kind, ...values }: TreatmentSettings): boolean => kind === 'noise-reduction' && values['network'] === 'deep';
  if (!spec.treatments.some(deep)) return spec;
  return { ...spec, treatments: spec.treatments.map((settings) => (deep(settings) ? { ...settings, network: 'full' } : settings)) };
}
