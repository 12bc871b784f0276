import { format } from 'date-fns';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { holdSession, letSessionGo } from '../api/client.js';
import { Dialog } from '../components/dialog.js';

/** A window says so often that it is still there. */
const AGAIN_MS = 4000;

/** Names this window, also over a reload: it must not meet itself. */
function windowId(): string {
  const known = sessionStorage.getItem('euphonos.window');
  if (known) return known;
  const made = crypto.randomUUID();
  sessionStorage.setItem('euphonos.window', made);
  return made;
}

/** Holds the session for this window; says when another one has it, and offers to work here instead. `onTaken` loads what was saved there. */
export function Elsewhere({ sessionId, onTaken }: { readonly sessionId: string; readonly onTaken: () => void }) {
  const [elsewhere, setElsewhere] = useState<{ readonly since: string; readonly taken: boolean } | null>(null);
  const navigate = useNavigate();
  const hold = useCallback(
    (take: boolean, had: boolean) =>
      holdSession(sessionId, windowId(), take).then(
        ({ held, since }) => {
          setElsewhere((before) => (held ? null : (before ?? { since, taken: had })));
          return held;
        },
        // Not to be reached: whatever is wrong there is told by the saving.
        () => had,
      ),
    [sessionId],
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
    void hold(true, true).then((held) => held && onTaken());
  };
  return (
    <Dialog
      open={elsewhere !== null}
      title={elsewhere?.taken ? 'Another window has taken this session over' : 'This session is open in another window'}
      onClose={() => undefined}
    >
      <p className="mt-0">
        {elsewhere?.taken
          ? 'What was done here has been saved; the other window goes on from there.'
          : `It has been open there since ${elsewhere ? format(elsewhere.since, 'HH:mm') : ''}. Two windows would work over each other.`}
      </p>
      <p>Working here instead loads what was saved last and tells the other window. Nothing is overwritten.</p>
      <div className="flex justify-end gap-2">
        <button type="button" className="press" onClick={() => void navigate('/')}>
          To the intake
        </button>
        <button type="button" className="press-strong" onClick={takeOver}>
          Work here instead
        </button>
      </div>
    </Dialog>
  );
}
