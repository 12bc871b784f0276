import type { ListenerMiddlewareInstance } from '@reduxjs/toolkit';
import { historyLog, isDocumentError, parseDocument, replay, type History, type HistoryLog, type SessionDocument } from '@euphonos/engine';
import { getSteps } from '../api/client.js';
import { sameDocument } from './drafts.js';
import type { SessionState } from './session-slice.js';

const AFTER_MS = 300;
const keyOf = (sessionId: string): string => `euphonos.history.${sessionId}`;

/** Keeps what was done in the browser, as edits, whenever it changes. */
export function startKeepingHistory(middleware: ListenerMiddlewareInstance): void {
  interface WithSession {
    readonly session: SessionState | null;
  }
  middleware.startListening({
    predicate: (_, state, before) => {
      const [now, then] = [(state as WithSession).session, (before as WithSession).session];
      return now?.history != null && now.history !== then?.history;
    },
    effect: async (_, api) => {
      api.cancelActiveListeners();
      const { session } = api.getState() as WithSession;
      await api.delay(AFTER_MS);
      if (session?.history) keepHistory(session.id, session.history);
    },
  });
}

export function keepHistory(sessionId: string, history: History): void {
  const steps = history.past.length;
  if (steps + history.future.length === 0) return;
  // All of them; where the browser has no room for that, the later half, and so on. The work itself is safe on the server.
  for (let most = steps; ; most = most >> 1) {
    try {
      return localStorage.setItem(keyOf(sessionId), JSON.stringify(historyLog(history, most)));
    } catch {
      if (most > 0) continue;
      return localStorage.removeItem(keyOf(sessionId));
    }
  }
}

/** The history that led to a document, if this browser still knows it. */
export function findHistory(sessionId: string, document: SessionDocument): History | null {
  const text = localStorage.getItem(keyOf(sessionId));
  if (!text) return null;
  try {
    return historyOf(JSON.parse(text) as HistoryLog, document);
  } catch (error) {
    if (!isDocumentError(error) && !(error instanceof SyntaxError) && !(error instanceof TypeError)) throw error;
    localStorage.removeItem(keyOf(sessionId));
    return null;
  }
}

/** What a log led to, if that is this document. @throws {EngineError | DspError} when a step does not fit */
function historyOf(log: HistoryLog, document: SessionDocument): History | null {
  const history = replay({ ...log, start: parseDocument(log.start) });
  return sameDocument(history.present, document) ? history : null;
}

/** The history that led to a document as the server knows it: from the start of the session on, wherever it was made. */
export async function fetchHistory(sessionId: string, document: SessionDocument): Promise<History | null> {
  const { log } = await getSteps(sessionId);
  try {
    return log && historyOf(log, document);
  } catch (error) {
    // Steps of another program are of no use; the document itself is read by itself.
    if (!isDocumentError(error)) throw error;
    return null;
  }
}
