import { LONGEST_MARK_NAME, LONGEST_MARK_NOTE, MOST_MARKS, type Mark } from './document.js';
import { fail, frame, list, object, text } from './json.js';

/** Marks in the order of time, with ids of their own. */
export function parseMarks(value: unknown): Mark[] {
  const marks = list(value, 'marks').map((item, i) => mark(item, `marks[${i}]`));
  if (marks.length > MOST_MARKS) fail('marks', `must be ${MOST_MARKS} or fewer`);
  if (new Set(marks.map(({ id }) => id)).size < marks.length) fail('marks', 'must have ids of their own');
  const inOrder = marks.every(({ startFrame }, i) => i === 0 || startFrame >= marks[i - 1]!.startFrame);
  return inOrder ? marks : fail('marks', 'must be in the order of time');
}

function mark(value: unknown, where: string): Mark {
  const json = object(value, where);
  const startFrame = frame(json['startFrame'], `${where}.startFrame`);
  const endFrame = json['endFrame'] === null ? null : frame(json['endFrame'], `${where}.endFrame`);
  const { name, note } = json;
  if (typeof name !== 'string' || name.length > LONGEST_MARK_NAME)
    return fail(`${where}.name`, `must be a text of up to ${LONGEST_MARK_NAME} characters`);
  if (typeof note !== 'string' || note.length > LONGEST_MARK_NOTE)
    return fail(`${where}.note`, `must be a text of up to ${LONGEST_MARK_NOTE} characters`);
  if (endFrame !== null && endFrame <= startFrame) return fail(`${where}.endFrame`, 'must come after the start');
  return { id: text(json['id'], `${where}.id`), name, startFrame, endFrame, note };
}
