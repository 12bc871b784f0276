import type { SessionView } from '@euphonos/contracts';
import { useCallback, useEffect, useState } from 'react';
import { listSessions } from '../../api/client.js';
import { onJobEvent } from '../../api/events.js';

/** The sessions, kept up to date by what the server reports of its jobs. */
export function useSessions() {
  const [sessions, setSessions] = useState<SessionView[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const reload = useCallback(
    () =>
      listSessions().then(
        (list) => {
          setSessions(list);
          setTrouble(null);
        },
        (error: Error) => setTrouble(error.message),
      ),
    [],
  );
  useEffect(() => {
    void reload();
    return onJobEvent(
      ({ sessionId, subjectId, job }) => {
        if (job.state !== 'running') return void reload();
        if (job.kind === 'read')
          setSessions(
            (list) =>
              list &&
              list.map((session) =>
                session.id === sessionId
                  ? {
                      ...session,
                      recording: session.recording.id === subjectId ? { ...session.recording, job } : session.recording,
                      recordings: session.recordings.map((one) => (one.id === subjectId ? { ...one, job } : one)),
                    }
                  : session,
              ),
          );
      },
      () => void reload(),
    );
  }, [reload]);
  return { sessions, trouble, reload };
}
