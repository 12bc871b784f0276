import { isClipsEdit } from './clips-edit.js';
import { describeEdit, gestureKey } from './describe.js';
import { WHOLE, type SessionDocument } from './document.js';
import { applyEdit, requireTrack, type Edit } from './edits.js';

export interface HistoryStep {
  readonly label: string;
  readonly gesture: string | null;
  /** What was done, so that the step can be done again: one edit, or those of one gesture. */
  readonly edits: readonly Edit[];
  /** The document before the step (in `past`) or after it (in `future`). */
  readonly document: SessionDocument;
}

/** The document with what was done to it. Unlimited in both directions. */
export interface History {
  readonly past: readonly HistoryStep[];
  readonly present: SessionDocument;
  readonly future: readonly HistoryStep[];
}

/** What is described by what it was. */
const REMOVES: ReadonlySet<string> = new Set(['remove-treatment', 'remove-track', 'remove-mark']);

export const startHistory = (present: SessionDocument): History => ({ past: [], present, future: [] });

/**
 * Pure: the history after an edit. With `sameGesture`, an edit of the same control joins the step before, so
 * that one drag is one step.
 */
export function record(history: History, edit: Edit, sameGesture = false): History {
  const { past, present } = history;
  const next = applyEdit(present, edit);
  const label = describeEdit(REMOVES.has(edit.type) ? present : next, edit);
  const gesture = gestureKey(edit);
  const last = past[past.length - 1];
  if (sameGesture && last && gesture !== null && last.gesture === gesture)
    return { past: [...past.slice(0, -1), { ...last, label, edits: joined(last, edit, next) }], present: next, future: [] };
  return { past: [...past, { label, gesture, edits: [edit], document: present }], present: next, future: [] };
}

/** The edits of a gesture with one more: the last alone where it says as much, as it does while one ruler moves. */
function joined({ document, edits }: HistoryStep, edit: Edit, next: SessionDocument): readonly Edit[] {
  // Edits of a clip under one gesture say where it goes, not by how much: the last says as much as all of them.
  if (isClipsEdit(edit)) return [edit];
  const touched = (of: SessionDocument): string =>
    JSON.stringify('trackId' in edit && edit.trackId !== WHOLE ? requireTrack(of, edit.trackId) : [of.target, of.chain, of.marks]);
  return touched(applyEdit(document, edit)) === touched(next) ? [edit] : [...edits, edit];
}

/** Pure: one step back; the same history when there is none. */
export function undo(history: History): History {
  const last = history.past[history.past.length - 1];
  if (!last) return history;
  return {
    past: history.past.slice(0, -1),
    present: last.document,
    future: [{ ...last, document: history.present }, ...history.future],
  };
}

/** Pure: one step forward again; the same history when there is none. */
export function redo(history: History): History {
  const [next, ...future] = history.future;
  if (!next) return history;
  return { past: [...history.past, { ...next, document: history.present }], present: next.document, future };
}

/** A history without its documents: what it began with, and what was done and undone since. */
export interface HistoryLog {
  readonly start: SessionDocument;
  readonly past: readonly (readonly Edit[])[];
  /** Undone; the next to be done again first. */
  readonly future: readonly (readonly Edit[])[];
}

/** The last `most` steps of a history as a log. */
export function historyLog({ past, present, future }: History, most: number): HistoryLog {
  const kept = past.slice(Math.max(0, past.length - most));
  return { start: kept[0]?.document ?? present, past: kept.map(({ edits }) => edits), future: future.map(({ edits }) => edits) };
}

/** Does everything in a log again. @throws {EngineError | DspError} when a step does not fit. */
export function replay({ start, past, future }: HistoryLog): History {
  const all = [...past, ...future].reduce(
    (history, edits) => edits.reduce((step, edit, i) => record(step, edit, i > 0), history),
    startHistory(start),
  );
  return future.reduce(undo, all);
}
