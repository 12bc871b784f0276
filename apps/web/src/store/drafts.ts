import { isDocumentError, parseDocument, type SessionDocument } from '@euphonos/engine';

/** A state of a session that the server has not confirmed, and the revision that it was made from. */
export interface Draft {
  readonly revision: number;
  readonly document: SessionDocument;
}

const keyOf = (sessionId: string): string => `euphonos.unsaved.${sessionId}`;

/** Keeps what is not saved yet in the browser, so that a page that goes away does not take it along. */
export function keepDraft(sessionId: string, draft: Draft): void {
  try {
    localStorage.setItem(keyOf(sessionId), JSON.stringify(draft));
  } catch {
    // No room in the browser: the server still gets it half a second later.
  }
}

export const dropDraft = (sessionId: string): void => localStorage.removeItem(keyOf(sessionId));

/** The draft of a session, if there is one that can be read. */
export function findDraft(sessionId: string): Draft | null {
  const text = localStorage.getItem(keyOf(sessionId));
  if (!text) return null;
  try {
    const { revision, document } = JSON.parse(text) as Draft;
    return { revision, document: parseDocument(document) };
  } catch (error) {
    if (!isDocumentError(error) && !(error instanceof SyntaxError)) throw error;
    dropDraft(sessionId);
    return null;
  }
}

/** Whether two documents say the same, in whatever order a database gives their parts back. */
export const sameDocument = (a: SessionDocument, b: SessionDocument): boolean =>
  JSON.stringify(parseDocument(a)) === JSON.stringify(parseDocument(b));
