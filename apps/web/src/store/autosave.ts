import type { ListenerMiddlewareInstance } from '@reduxjs/toolkit';
import { saveDocument } from '../api/client.js';
import { ServerProblem, unreachable } from '../api/problem.js';
import { saveChanged, saved, saving, type SessionState } from './session-slice.js';

/** Edits are saved this long after the last one: within a second. */
const SAVE_AFTER_MS = 500;
const RETRY_AFTER_MS = 2000;

interface WithSession {
  readonly session: SessionState | null;
}

/** Saves the document whenever it waits for it; a newer edit starts the wait again. */
export function startAutosave(middleware: ListenerMiddlewareInstance): void {
  middleware.startListening({
    predicate: (_, state, before) => {
      const { session } = state as WithSession;
      return session !== (before as WithSession).session && (session?.save.kind === 'waiting' || session?.save.kind === 'retrying');
    },
    effect: async (_, api) => {
      const before = (api.getState() as WithSession).session;
      if (!before?.history) return;
      api.cancelActiveListeners();
      await api.delay(before.save.kind === 'retrying' ? RETRY_AFTER_MS : SAVE_AFTER_MS);
      const session = (api.getState() as WithSession).session;
      if (!session?.history) return;
      const document = session.history.present;
      api.unsubscribe();
      try {
        api.dispatch(saving());
        const { revision } = await saveDocument(session.id, session.revision, document);
        const now = (api.getState() as WithSession).session;
        api.subscribe();
        if (now?.id === session.id) api.dispatch(saved({ revision, stillCurrent: now.history?.present === document }));
      } catch (error) {
        api.subscribe();
        const problem = error instanceof ServerProblem ? error : unreachable();
        api.dispatch(saveChanged(afterFailure(problem)));
      }
    },
  });
}

function afterFailure({ status, code, message, data }: ServerProblem) {
  if (code === 'stale-revision') return { kind: 'stale', message, revision: Number(data['revision']) } as const;
  if (status === 0 || status >= 500) return { kind: 'retrying', message } as const;
  return { kind: 'refused', message } as const;
}
