import type { ListenerMiddlewareInstance } from '@reduxjs/toolkit';
import type { History, SessionDocument } from '@euphonos/engine';
import { getSession, saveDocument } from '../api/client.js';
import { ServerProblem, unreachable } from '../api/problem.js';
import { dropDraft, keepDraft, sameDocument } from './drafts.js';
import { stepsSent, stepsToSend } from './sent-steps.js';
import { saveChanged, saved, saving, type SaveState, type SessionState } from './session-slice.js';

/** Edits are saved this long after the last one: within a second. */
const SAVE_AFTER_MS = 500;
const RETRY_AFTER_MS = 2000;

interface WithSession {
  readonly session: SessionState | null;
}

/**
 * Saves the document whenever it waits for it; a newer edit starts the wait again. Until the server has confirmed
 * a state, the browser keeps it as a draft.
 */
export function startAutosave(middleware: ListenerMiddlewareInstance): void {
  let kept: SessionDocument | null = null;
  middleware.startListening({
    predicate: (_, state, before) => (state as WithSession).session !== (before as WithSession).session,
    effect: (_, api) => {
      const { session } = api.getState() as WithSession;
      if (!session?.history) return;
      if (session.save.kind === 'saved') {
        kept = null;
        dropDraft(session.id);
      }
      // Once a state: a session of thousands of clips is some megabytes.
      else if (kept !== session.history.present) {
        kept = session.history.present;
        keepDraft(session.id, { revision: session.revision, document: kept });
      }
    },
  });
  middleware.startListening({
    predicate: (_, state, before) => {
      const { session } = state as WithSession;
      return session !== (before as WithSession).session && (session?.save.kind === 'waiting' || session?.save.kind === 'retrying');
    },
    effect: async (_, api) => {
      const before = (api.getState() as WithSession).session;
      if (!before?.history) return;
      api.cancelActiveListeners();
      // Left in the meantime: it is saved at once, and the page does not wait for it.
      await Promise.race([
        api.delay(before.save.kind === 'retrying' ? RETRY_AFTER_MS : SAVE_AFTER_MS),
        api.condition((_action, state) => (state as WithSession).session?.id !== before.id),
      ]);
      const now = (api.getState() as WithSession).session;
      const session = now?.id === before.id ? now : before;
      if (!session.history) return;
      const { history } = session;
      api.unsubscribe();
      if (now?.id === session.id) api.dispatch(saving());
      const outcome = await save(session, history);
      api.subscribe();
      const after = (api.getState() as WithSession).session;
      if (after?.id !== session.id) {
        if (outcome.kind === 'saved') dropDraft(session.id);
        // The session that is open now may have been edited while nobody listened.
        if (after?.save.kind === 'waiting') api.dispatch(saveChanged({ kind: 'waiting' }));
      }
      // The same steps, not only the same document: one that was made and undone in the meantime can still be redone.
      else if (outcome.kind === 'saved') api.dispatch(saved({ revision: outcome.revision, stillCurrent: after.history === history }));
      else api.dispatch(saveChanged(outcome));
    },
  });
}

type Outcome = { readonly kind: 'saved'; readonly revision: number } | Exclude<SaveState, { kind: 'saved' | 'waiting' | 'saving' }>;

async function save({ id, revision }: SessionState, history: History): Promise<Outcome> {
  const document = history.present;
  try {
    const { revision: next, stepsKept } = await saveDocument(id, revision, document, stepsToSend(id, history));
    stepsSent(id, stepsKept ? history : null);
    return { kind: 'saved', revision: next };
  } catch (error) {
    const problem = error instanceof ServerProblem ? error : unreachable();
    if (problem.code !== 'stale-revision') {
      const kind = problem.status === 0 || problem.status === 401 || problem.status >= 500 ? 'retrying' : 'refused';
      return { kind, message: problem.message };
    }
    // An answer may have been lost on its way: then what is saved there is what was sent from here.
    const present = await getSession(id).catch(() => null);
    if (present?.document && sameDocument(present.document, document)) return { kind: 'saved', revision: present.revision };
    return { kind: 'stale', message: problem.message, revision: Number(problem.data['revision']) };
  }
}
