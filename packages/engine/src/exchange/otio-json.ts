/** What of OpenTimelineIO's JSON (Academy Software Foundation, serialised schemas as its documentation lists them; from memory) is written and read. */
export interface RationalTime {
  readonly OTIO_SCHEMA: 'RationalTime.1';
  readonly rate: number;
  readonly value: number;
}
export interface TimeRange {
  readonly OTIO_SCHEMA: 'TimeRange.1';
  readonly start_time: RationalTime;
  readonly duration: RationalTime;
}
export type Otio = Readonly<Record<string, unknown>>;

/** Where what only this program knows stands in each object's metadata: others carry it along. */
export const OWN = 'euphonos';

export const time = (value: number, rate: number): RationalTime => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
export const range = (start: number, frames: number, rate: number): TimeRange => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, rate),
  duration: time(frames, rate),
});

export const isObject = (value: unknown): value is Otio => typeof value === 'object' && value !== null && !Array.isArray(value);
/** The kind of an object, without its version: "Clip" of "Clip.2". */
export const schemaOf = (value: unknown): string => (isObject(value) ? String(value['OTIO_SCHEMA'] ?? '').replace(/\.\d+$/, '') : '');
export const childrenOf = (value: unknown): readonly unknown[] =>
  isObject(value) && Array.isArray(value['children']) ? (value['children'] as readonly unknown[]) : [];
export const ownOf = (value: unknown): Otio => {
  const metadata = isObject(value) ? value['metadata'] : undefined;
  const own = isObject(metadata) ? metadata[OWN] : undefined;
  return isObject(own) ? own : {};
};
export const nameOf = (value: unknown): string => (isObject(value) && typeof value['name'] === 'string' ? value['name'] : '');

/** Seconds of a rational time; undefined where it is none. */
export function secondsOf(value: unknown): number | undefined {
  if (!isObject(value)) return undefined;
  const [count, rate] = [Number(value['value']), Number(value['rate'])];
  return Number.isFinite(count) && rate > 0 ? count / rate : undefined;
}
/** Start and length of a range in seconds; null where it is none. */
export function rangeSeconds(value: unknown): { readonly start: number; readonly length: number } | null {
  if (!isObject(value)) return null;
  const [start, length] = [secondsOf(value['start_time']), secondsOf(value['duration'])];
  return start === undefined || length === undefined || length < 0 ? null : { start, length };
}
