import type { Edit, History } from '@euphonos/engine';
import type { SavedSteps } from '@euphonos/contracts';

type Steps = readonly (readonly Edit[])[];

/** Which steps of the session that is open the server has, so that a save brings only those that are new. */
let known: { readonly sessionId: string; readonly past: Steps } | null = null;

const editsOf = (steps: History['past']): Steps => steps.map(({ edits }) => edits);

/** What a save brings of a history. */
export function stepsToSend(sessionId: string, { past, present, future }: History): SavedSteps {
  const before = known?.sessionId === sessionId ? known.past : [];
  let from = 0;
  while (from < past.length && from < before.length && past[from]!.edits === before[from]) from++;
  return {
    from,
    start: from === 0 ? (past[0]?.document ?? present) : null,
    past: editsOf(past.slice(from)),
    future: editsOf(future),
  };
}

/** The server has all steps of a history; or none of it, for all that is known. */
export function stepsSent(sessionId: string, history: History | null): void {
  known = history && { sessionId, past: editsOf(history.past) };
}
