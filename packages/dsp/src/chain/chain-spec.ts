import { DspError } from '../errors.js';
import { defaultValues, type ParameterSpec, type TreatmentDefinition } from '../treatments/definition.js';
import { findTreatment, treatmentKinds, type TreatmentKind } from '../treatments/registry.js';

/** One treatment of a chain as it is stored: `{ kind, bypassed, …parameters }`. */
export interface TreatmentSettings {
  readonly kind: TreatmentKind;
  readonly bypassed: boolean;
  /** Names the treatment while it is moved about; any text, unique in its chain. */
  readonly id?: string;
  readonly [parameter: string]: number | string | boolean | undefined;
}

/** A chain as sessions store it and as the command line reads it. */
export interface ChainSpec {
  readonly treatments: readonly TreatmentSettings[];
}

export const MAX_TREATMENTS = 32;

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** A new treatment with its defaults. */
export function defaultTreatment(kind: TreatmentKind): TreatmentSettings {
  return { kind, bypassed: false, ...defaultValues(findTreatment(kind)!.parameters) };
}

/** The parameters of one treatment, without kind, id and bypass. */
export function parametersOf(settings: TreatmentSettings): Record<string, number> {
  const { parameters } = findTreatment(settings.kind)!;
  return Object.fromEntries(Object.keys(parameters).map((name) => [name, settings[name] as number]));
}

/**
 * Reads a chain from untrusted JSON. A parameter left out takes its default; `bypassed` left out is false.
 * @throws {DspError} `chain-shape`, `treatment-unknown`, `parameter-unknown`, `parameter-type`,
 *   `parameter-range` or `parameter-conflict`.
 */
export function parseChain(json: unknown): ChainSpec {
  if (!isRecord(json) || !Array.isArray(json['treatments']))
    throw new DspError('chain-shape', 'A chain is an object { "treatments": [ … ] }; this is something else.');
  const extra = Object.keys(json).find((key) => key !== 'treatments');
  if (extra !== undefined) throw new DspError('chain-shape', `A chain holds "treatments" only, not "${extra}".`);
  const list = json['treatments'] as unknown[];
  if (list.length > MAX_TREATMENTS)
    throw new DspError('chain-shape', `A chain holds up to ${MAX_TREATMENTS} treatments; this has ${list.length}.`);
  const treatments = list.map(parseTreatment);
  const ids = treatments.flatMap(({ id }) => (id === undefined ? [] : [id]));
  if (new Set(ids).size !== ids.length) throw new DspError('chain-shape', 'Two treatments of the chain have the same id.');
  return { treatments };
}

function parseTreatment(json: unknown, index: number): TreatmentSettings {
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
  for (const name of Object.keys(given))
    if (!Object.hasOwn(definition.parameters, name))
      throw new DspError(
        'parameter-unknown',
        `${definition.kind} has no parameter "${name}"; it has ${Object.keys(definition.parameters).join(', ')}.`,
        { kind, name },
      );
  const values: Record<string, number> = {};
  for (const [name, spec] of Object.entries(definition.parameters))
    values[name] = given[name] === undefined ? spec.default : parseParameter(definition, name, spec, given[name]);
  const conflict = definition.conflict?.(values);
  if (conflict) throw new DspError('parameter-conflict', conflict, { kind });
  return { kind: definition.kind, bypassed, ...(id === undefined ? {} : { id }), ...values };
}

function parseParameter({ kind }: TreatmentDefinition, name: string, spec: ParameterSpec, value: unknown): number {
  if (typeof value !== 'number' || !Number.isFinite(value))
    throw new DspError('parameter-type', `${kind}: ${name} is a number, not ${JSON.stringify(value)}.`, { kind, name });
  if (value < spec.min || value > spec.max)
    throw new DspError(
      'parameter-range',
      `${kind}: ${name} goes from ${spec.min} to ${spec.max} ${spec.unit}; ${value} was given.`,
      { kind, name, value, min: spec.min, max: spec.max },
    );
  if ((spec.unit === 'count' || spec.unit === 'dB/oct') && (value - spec.min) % spec.step !== 0)
    throw new DspError(
      'parameter-range',
      `${kind}: ${name} goes from ${spec.min} to ${spec.max} in steps of ${spec.step}; ${value} was given.`,
      { kind, name, value, step: spec.step },
    );
  return value;
}
