import { EngineError } from '../errors.js';
import { LONGEST_MARK_NAME, LONGEST_MARK_NOTE, MOST_MARKS, type Mark, type SessionDocument } from './document.js';

/** What can be done to the marks of a session. Frames are those of the session. */
export type MarksEdit =
  | { readonly type: 'add-mark'; readonly mark: Mark }
  /** Of a file: one step. */
  | { readonly type: 'add-marks'; readonly marks: readonly Mark[] }
  | { readonly type: 'set-mark'; readonly id: string; readonly set: Partial<Omit<Mark, 'id'>> }
  | { readonly type: 'remove-mark'; readonly id: string };

const kinds: ReadonlySet<string> = new Set<MarksEdit['type']>(['add-mark', 'add-marks', 'set-mark', 'remove-mark']);
export const isMarksEdit = (edit: { readonly type: string }): edit is MarksEdit => kinds.has(edit.type);

/** Pure: the document after the edit. @throws {EngineError} `marks-many`, `mark-unknown` or `span-outside` */
export function editMarks(document: SessionDocument, edit: MarksEdit): SessionDocument {
  const { marks } = document;
  if (edit.type === 'add-mark') {
    if (marks.length >= MOST_MARKS)
      throw new EngineError('marks-many', `A session holds up to ${MOST_MARKS} marks; remove one first.`, { most: MOST_MARKS });
    if (marks.some(({ id }) => id === edit.mark.id)) throw new EngineError('document-shape', 'There is a mark of that id already.');
    return { ...document, marks: inOrder([...marks, tidy(edit.mark)]) };
  }
  if (edit.type === 'add-marks') return edit.marks.reduce((before, mark) => editMarks(before, { type: 'add-mark', mark }), document);
  const known = marks.find(({ id }) => id === edit.id);
  if (!known) throw new EngineError('mark-unknown', 'This mark is gone.', { id: edit.id });
  if (edit.type === 'remove-mark') return { ...document, marks: marks.filter((mark) => mark !== known) };
  return { ...document, marks: inOrder(marks.map((mark) => (mark === known ? tidy({ ...mark, ...edit.set }) : mark))) };
}

const inOrder = (marks: readonly Mark[]): Mark[] => [...marks].sort((a, b) => a.startFrame - b.startFrame);

function tidy({ id, name, startFrame, endFrame, note }: Mark): Mark {
  const [from, to] = [Math.round(startFrame), endFrame === null ? null : Math.round(endFrame)];
  if (!(from >= 0) || (to !== null && !(to > from)))
    throw new EngineError('span-outside', `A mark begins at 0 or later and ends after it begins; this one goes from ${from} to ${to}.`, {
      startFrame: from,
      endFrame: to,
    });
  return { id, name: name.trim().slice(0, LONGEST_MARK_NAME), startFrame: from, endFrame: to, note: note.slice(0, LONGEST_MARK_NOTE) };
}

/** An edit of marks in a few words; `name` is that of the mark. */
export function describeMarksEdit(edit: MarksEdit, name: string): string {
  if (edit.type === 'add-mark') return `Mark ${edit.mark.name || 'a place'}`;
  if (edit.type === 'add-marks') return edit.marks.length === 1 ? 'Read a mark' : `Read ${edit.marks.length} marks`;
  if (edit.type === 'remove-mark') return `Remove mark ${name}`;
  if (edit.set.name !== undefined) return `Mark: ${edit.set.name}`;
  return edit.set.note !== undefined ? `Note at ${name || 'a mark'}` : `Move mark ${name}`;
}
