import { describeEdit, gestureKey } from './describe.js';
import type { SessionDocument } from './document.js';
import { applyEdit, type Edit } from './edits.js';

export interface HistoryStep {
  readonly label: string;
  readonly gesture: string | null;
  /** The document before the step (in `past`) or after it (in `future`). */
  readonly document: SessionDocument;
}

/** The document with what was done to it. Unlimited in both directions. */
export interface History {
  readonly past: readonly HistoryStep[];
  readonly present: SessionDocument;
  readonly future: readonly HistoryStep[];
}

export const startHistory = (present: SessionDocument): History => ({ past: [], present, future: [] });

/**
 * Pure: the history after an edit. With `sameGesture`, an edit of the same control joins the step before, so
 * that one drag is one step.
 */
export function record(history: History, edit: Edit, sameGesture = false): History {
  const { past, present } = history;
  const next = applyEdit(present, edit);
  const label = describeEdit(edit.type === 'remove-treatment' ? present : next, edit);
  const gesture = gestureKey(edit);
  const last = past[past.length - 1];
  if (sameGesture && last && gesture !== null && last.gesture === gesture)
    return { past: [...past.slice(0, -1), { ...last, label }], present: next, future: [] };
  return { past: [...past, { label, gesture, document: present }], present: next, future: [] };
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
