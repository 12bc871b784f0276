import { format } from 'date-fns';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { holdSession, letSessionGo } from '../api/client.js';
import { Dialog } from '../components/dialog.js';
import { store } from '../store/store.js';
import { windowId } from '../shell/window-id.js';

/** A window says so often that it is still there. */
const AGAIN_MS = 4000;

interface Holder {
  readonly since: string;
  /** It was this window's before. */
  readonly taken: boolean;
  readonly by: string | null;
  /** It is this window's again, and what was saved there is on its way. */
  readonly loading: boolean;
}

/**
 * Holds the session for this window; says when another one has it, and offers to work here instead. `onTaken` loads what was saved there; until
 * it has, nothing can be done here that it would replace.
 */
export function Elsewhere({ sessionId, onTaken }: { readonly sessionId: string; readonly onTaken: () => Promise<void> }) {
  const [elsewhere, setElsewhere] = useState<Holder | null>(null);
  const navigate = useNavigate();
  const hold = useCallback(
    (take: boolean, had: boolean) =>
      holdSession(sessionId, windowId(), take).then(
        ({ held, since, by, revision }) => {
          const { session } = store.getState();
          // Somebody else saved while it was only listened to here: that is what is worked on.
          if (held && !had && !take && session?.save.kind === 'saved' && session.revision < revision) void onTaken();
          setElsewhere((before) => {
            if (before?.loading) return before;
            return held ? null : (before ?? { since, taken: had, by, loading: false });
          });
          return held;
        },
        // Not to be reached: whatever is wrong there is told by the saving. What cannot be asked for is not taken.
        () => had && !take,
      ),
    [sessionId, onTaken],
  );
  useEffect(() => {
    let current = true;
    let had = false;
    let timer: ReturnType<typeof setTimeout>;
    const beat = async (): Promise<void> => {
      had = await hold(false, had);
      if (current) timer = setTimeout(() => void beat(), AGAIN_MS);
    };
    void beat();
    const leave = (): void => letSessionGo(sessionId, windowId());
    addEventListener('pagehide', leave);
    return () => {
      current = false;
      clearTimeout(timer);
      removeEventListener('pagehide', leave);
      leave();
    };
  }, [sessionId, hold]);

  const takeOver = (): void => {
    const loading = (is: boolean): void => setElsewhere((before) => before && { ...before, loading: is });
    loading(true);
    void hold(true, true).then(async (held) => {
      if (!held) return loading(false);
      await onTaken();
      setElsewhere(null);
    });
  };
  return (
    <Dialog open={elsewhere !== null} title={titleOf(elsewhere)} onClose={() => undefined}>
      <p className="mt-0">
        {elsewhere?.taken
          ? 'What was done here has been saved; the other window goes on from there.'
          : `It has been open there since ${elsewhere ? format(elsewhere.since, 'HH:mm') : ''}. Two windows would work over each other.`}
      </p>
      <p>
        Working here instead loads what was saved last and tells {elsewhere?.by ?? 'the other window'}. Nothing is overwritten.
        {elsewhere?.by && ' To listen and to comment beside them, open Talk.'}
      </p>
      <div className="flex justify-end gap-2">
        <button type="button" className="press" onClick={() => void navigate('/')}>
          To the intake
        </button>
        {elsewhere?.by && (
          <button type="button" className="press" onClick={() => void navigate(`/sessions/${sessionId}/talk`)}>
            To the talk
          </button>
        )}
        <button type="button" className="press-strong" disabled={elsewhere?.loading} onClick={takeOver}>
          Work here instead
        </button>
      </div>
    </Dialog>
  );
}

function titleOf(elsewhere: { readonly taken: boolean; readonly by: string | null } | null): string {
  if (elsewhere?.taken) return elsewhere.by ? `${elsewhere.by} has taken this session over` : 'Another window has taken this session over';
  return elsewhere?.by ? `${elsewhere.by} works on this session` : 'This session is open in another window';
}
