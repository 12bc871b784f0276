import { DspError } from '../errors.js';
import type {
  ChoiceSpec,
  ListRow,
  ListSpec,
  ListValue,
  ParameterSpec,
  SettingValue,
  TreatmentDefinition,
} from '../treatments/definition.js';

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * Reads one setting of a treatment from untrusted JSON: a number, a word, or a list. `name` must be one that it has.
 * @throws {DspError} `parameter-type`, `parameter-range`, `parameter-unknown` or `parameter-conflict`
 */
export function parseSetting(
  definition: Pick<TreatmentDefinition, 'kind' | 'parameters' | 'choices' | 'lists'>,
  name: string,
  value: unknown,
): SettingValue {
  const { kind, parameters, choices, lists } = definition;
  if (parameters[name]) return parseNumber(kind, name, parameters[name], value);
  if (choices?.[name]) return parseChoice(kind, name, choices[name], value);
  return parseList(kind, name, lists![name]!, value);
}

function parseNumber(kind: string, name: string, spec: ParameterSpec, value: unknown): number {
  if (typeof value !== 'number' || !Number.isFinite(value))
    throw new DspError('parameter-type', `${kind}: ${name} is a number, not ${JSON.stringify(value)}.`, { kind, name });
  if (value < spec.min || value > spec.max)
    throw new DspError('parameter-range', `${kind}: ${name} goes from ${spec.min} to ${spec.max} ${spec.unit}; ${value} was given.`, {
      kind,
      name,
      value,
      min: spec.min,
      max: spec.max,
    });
  if ((spec.unit === 'count' || spec.unit === 'dB/oct') && (value - spec.min) % spec.step !== 0)
    throw new DspError(
      'parameter-range',
      `${kind}: ${name} goes from ${spec.min} to ${spec.max} in steps of ${spec.step}; ${value} was given.`,
      { kind, name, value, step: spec.step },
    );
  return value;
}

function parseChoice(kind: string, name: string, spec: ChoiceSpec, value: unknown): string {
  if (typeof value === 'string' && spec.options.some((option) => option.value === value)) return value;
  const known = spec.options.map((option) => option.value).join(', ');
  throw new DspError('parameter-range', `${kind}: ${name} is one of ${known}; ${JSON.stringify(value)} was given.`, { kind, name, value });
}

function parseList(kind: string, name: string, spec: ListSpec, value: unknown): ListValue {
  if (!Array.isArray(value))
    throw new DspError('parameter-type', `${kind}: ${name} is a list, not ${JSON.stringify(value)}.`, { kind, name });
  if (value.length > spec.most)
    throw new DspError('parameter-range', `${kind}: ${name} holds up to ${spec.most}; ${value.length} were given.`, {
      kind,
      name,
      most: spec.most,
    });
  const list = value as unknown[];
  return spec.numbers
    ? list.map((item) => parseListNumber(kind, name, spec.numbers!, item))
    : list.map((item, i) => parseRow(kind, `${name}[${i}]`, spec, item));
}

function parseListNumber(kind: string, name: string, { min, max }: NonNullable<ListSpec['numbers']>, value: unknown): number {
  if (typeof value !== 'number')
    throw new DspError('parameter-type', `${kind}: ${name} holds numbers, not ${JSON.stringify(value)}.`, { kind, name });
  if (!Number.isInteger(value) || value < min || value > max)
    throw new DspError('parameter-range', `${kind}: ${name} holds whole numbers from ${min} to ${max}; ${value} was given.`, {
      kind,
      name,
      value,
    });
  return value;
}

function parseRow(kind: string, where: string, { fields = {}, choices = {}, conflict }: ListSpec, value: unknown): ListRow {
  const names = [...Object.keys(choices), ...Object.keys(fields)];
  if (!isRecord(value))
    throw new DspError('parameter-type', `${kind}: ${where} is an object { ${names.join(', ')} }, not ${JSON.stringify(value)}.`, { kind });
  const extra = Object.keys(value).find((key) => !names.includes(key));
  if (extra !== undefined)
    throw new DspError('parameter-unknown', `${kind}: ${where} has no "${extra}"; it has ${names.join(', ')}.`, { kind });
  const row: Record<string, number | string> = {};
  for (const [key, spec] of Object.entries(choices))
    row[key] = value[key] === undefined ? spec.default : parseChoice(kind, `${where}.${key}`, spec, value[key]);
  for (const [key, spec] of Object.entries(fields))
    row[key] = value[key] === undefined ? spec.default : parseNumber(kind, `${where}.${key}`, spec, value[key]);
  const broken = conflict?.(row);
  if (broken) throw new DspError('parameter-conflict', `${kind}: ${where}: ${broken}`, { kind });
  return row;
}
