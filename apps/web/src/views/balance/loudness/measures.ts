import {
  COURSE_STEP_SECONDS,
  integratedSoFar,
  MOMENTARY_SECONDS,
  SHORT_TERM_SECONDS,
  courseWithin,
  type LoudnessCourse,
} from '@euphonos/dsp';

/** What is drawn over time. */
export type Measure = 'momentary' | 'short-term' | 'so far';

export const MEASURES: readonly { readonly value: Measure; readonly title: string; readonly hint: string }[] = [
  { value: 'momentary', title: 'momentary', hint: 'Loudness of 400 ms, drawn in their middle' },
  { value: 'short-term', title: 'short-term', hint: 'Loudness of 3 s, drawn in their middle' },
  { value: 'so far', title: 'so far', hint: 'Integrated loudness, from the start of what is shown (or selected) up to here' },
];

/** A line of values every 100 ms: LUFS, and where the first stands. */
export interface Line {
  readonly values: Float32Array;
  readonly firstSeconds: number;
}

/** Seconds from the start of a window to where its value stands; one that is told so far stands at its end. */
export const standsAfter = (measure: Measure): number =>
  measure === 'momentary' ? MOMENTARY_SECONDS / 2 : measure === 'short-term' ? SHORT_TERM_SECONDS / 2 : MOMENTARY_SECONDS;

/** A measure of a course as a line, in seconds of the session; `so far` counts from `fromSeconds` to `toSeconds`. */
export function lineOf(course: LoudnessCourse, measure: Measure, fromSeconds: number, toSeconds: number): Line {
  if (measure !== 'so far')
    return { values: measure === 'momentary' ? course.momentaryLufs : course.shortTermLufs, firstSeconds: standsAfter(measure) };
  const first = Math.ceil(fromSeconds / COURSE_STEP_SECONDS - 1e-6) * COURSE_STEP_SECONDS;
  const { momentaryLufs } = courseWithin(course, fromSeconds, toSeconds);
  return { values: integratedSoFar(momentaryLufs), firstSeconds: first + standsAfter(measure) };
}

/** What a line says at a time; undefined where it says nothing. */
export const valueAt = ({ values, firstSeconds }: Line, seconds: number): number | undefined =>
  values[Math.round((seconds - firstSeconds) / COURSE_STEP_SECONDS)];

/** Integrated loudness of a line that is told so far; null for silence or too little. */
export function lastOf({ values }: Line): number | null {
  const last = values[values.length - 1];
  return last === undefined || last === -Infinity ? null : last;
}
