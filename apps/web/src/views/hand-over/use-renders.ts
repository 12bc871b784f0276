import type { RenderView } from '@euphonos/contracts';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { cancelRender, listRenders, startPieces, startRender, startStems } from '../../api/client.js';
import { onJobEvent } from '../../api/events.js';

const tell = (error: Error): void => {
  toast.error(error.message);
};

/** The deliveries of a session, latest first, kept up to date. */
export function useRenders(sessionId: string) {
  const [renders, setRenders] = useState<RenderView[] | null>(null);
  const reload = useCallback(() => listRenders(sessionId).then(setRenders, tell), [sessionId]);
  useEffect(() => {
    void reload();
    return onJobEvent(
      (event) => {
        if (event.sessionId !== sessionId || event.job.kind !== 'render') return;
        if (event.job.state !== 'running') return void reload();
        setRenders((list) => list && list.map((render) => (render.id === event.subjectId ? { ...render, job: event.job } : render)));
      },
      () => void reload(),
    );
  }, [sessionId, reload]);
  return {
    renders,
    start: (revision: number, trackId: string, intoPicture = false, keepOthers = true) =>
      startRender(sessionId, revision, trackId, intoPicture, keepOthers).then(reload, tell),
    stems: (revision: number) => startStems(sessionId, revision).then(reload, tell),
    pieces: (revision: number, what: 'clips' | 'originals', handleSeconds: number) =>
      startPieces(sessionId, revision, what, handleSeconds).then(reload, tell),
    cancel: (id: string) => cancelRender(id).then(reload, tell),
  };
}
