import { Notice } from '../../components/notice.js';
import { BringIn } from './bring-in.js';
import { SessionLine } from './session-line.js';
import { useSessions } from './use-sessions.js';

/** The list of sessions, and the way in for recordings. */
export function Intake() {
  const { sessions, trouble, reload } = useSessions();
  return (
    <BringIn onArrival={() => void reload()}>
      {trouble && (
        <Notice
          tone="trouble"
          action={
            <button type="button" className="press" onClick={() => void reload()}>
              Try again
            </button>
          }
        >
          {trouble}
        </Notice>
      )}
      {sessions?.length === 0 && (
        <p className="max-w-[60ch] text-soft">
          Nothing here yet. Bring in a recording of speech with noise under it: it is read once, measured, and opens for treatment. A second
          or two of noise alone, before the first word, is the best start.
        </p>
      )}
      <ul className="m-0 list-none p-0">
        {sessions?.map((session) => (
          <SessionLine key={session.id} session={session} onChange={() => void reload()} />
        ))}
      </ul>
    </BringIn>
  );
}
