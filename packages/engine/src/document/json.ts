import { EngineError } from '../errors.js';
import type { Span } from './span.js';

/** Readers of untrusted JSON: each gives what it says, or an error with the place. */
export type Json = Record<string, unknown>;

export const fail = (where: string, rule: string): never => {
  throw new EngineError('document-shape', `The session document is not readable: ${where} ${rule}.`, { where });
};

export const object = (value: unknown, where: string): Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : fail(where, 'must be an object');
export const list = (value: unknown, where: string): unknown[] => (Array.isArray(value) ? value : fail(where, 'must be a list'));
export const text = (value: unknown, where: string): string =>
  typeof value === 'string' && value.length > 0 && value.length <= 300 ? value : fail(where, 'must be a text of 1 to 300 characters');
export const frame = (value: unknown, where: string): number =>
  Number.isSafeInteger(value) && (value as number) >= 0 ? (value as number) : fail(where, 'must be a whole number of frames, 0 or more');

export function span(value: unknown, where: string): Span {
  const json = object(value, where);
  const read = { startFrame: frame(json['startFrame'], `${where}.startFrame`), endFrame: frame(json['endFrame'], `${where}.endFrame`) };
  return read.startFrame <= read.endFrame ? read : fail(where, 'must not end before it starts');
}

/** A number within limits. */
export const number = (value: unknown, where: string, { min, max }: { readonly min: number; readonly max: number }): number =>
  typeof value === 'number' && value >= min && value <= max ? value : fail(where, `must be a number from ${min} to ${max}`);
