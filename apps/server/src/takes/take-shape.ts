import { takeMarks, type TakeGap, type TakeMark } from '@euphonos/contracts';
import { AppProblem } from '../problems/app-problem.js';

const isFrame = (value: unknown, least: number): boolean => Number.isInteger(value) && (value as number) >= least;

/** The list, if each of it is of that shape. @throws {AppProblem} `take-shape` */
function readList<Item>(list: readonly unknown[], is: (item: Record<string, unknown>) => boolean, what: string): readonly Item[] {
  if (list.every((item) => typeof item === 'object' && item !== null && is(item as Record<string, unknown>)))
    return list as readonly Item[];
  throw new AppProblem(422, 'take-shape', `${what}; something else was given. What was recorded is safe; send it again in order.`);
}

/** Marks from outside. */
export const readMarks = (list: readonly unknown[]): readonly TakeMark[] =>
  readList<TakeMark>(
    list,
    ({ kind, frame }) => takeMarks.includes(kind as TakeMark['kind']) && isFrame(frame, 0),
    `A mark of a take has a kind (${takeMarks.join(', ')}) and a frame from 0 on`,
  ).map(({ kind, frame }) => ({ kind, frame }));

/** Holes from outside. */
export const readGaps = (list: readonly unknown[]): readonly TakeGap[] =>
  readList<TakeGap>(
    list,
    ({ frame, frames }) => isFrame(frame, 0) && isFrame(frames, 1),
    'A hole of a take has a frame from 0 on, and how many frames are missing, 1 or more',
  ).map(({ frame, frames }) => ({ frame, frames }));
