import type { SessionDocument } from '@euphonos/engine';
import { useCallback, useEffect, useState } from 'react';
import { Link, Navigate, Outlet, useMatch, useParams } from 'react-router';
import { getSession } from '../api/client.js';
import { onJobEvent } from '../api/events.js';
import { Notice } from '../components/notice.js';
import { Elsewhere } from './elsewhere.js';
import { ListeningBar } from './listening-bar/listening-bar.js';
import { changed } from '../store/listening-slice.js';
import { findDraft } from '../store/drafts.js';
import { fetchHistory, findHistory } from '../store/kept-history.js';
import { stepsSent } from '../store/sent-steps.js';
import { closed, opened, recordingsKnown } from '../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../store/store.js';
import { useTalkKept } from './talk/use-talk.js';
import { WorkbenchProvider } from '../workbench/workbench-context.js';

/** What a view of the session may ask of it. */
export interface SessionOutlet {
  /** Opens the state that was saved last, in place of the one that is open. */
  readonly reload: () => void;
}

/** Everything that belongs to one open session; the listening bar stays while the steps change. */
export function SessionRoom() {
  const { id } = useParams();
  const dispatch = useAppDispatch();
  const session = useApp((state) => state.session);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [progress, setProgress] = useState(0);
  const [gathering, setGathering] = useState(false);
  const talking = useMatch('/sessions/:id/talk') !== null;
  useTalkKept(session?.history ? id : undefined);
  // Samples that had made room are read again when the session is opened.
  const again =
    session?.recordings.some(({ facts, job }) => facts !== null && (job.state === 'queued' || job.state === 'running')) ?? false;
  const reading = session !== null && (session.history === null || again);

  const floorDbfs = session?.recording.facts?.figures.noiseFloorDbfs;
  useEffect(() => {
    // Pictures start with the noise between words in light ink.
    if (typeof floorDbfs === 'number')
      dispatch(changed({ inkFloorDbfs: Math.max(-120, Math.min(-60, 6 * Math.round((floorDbfs - 42) / 6))) }));
  }, [floorDbfs, dispatch]);

  const load = useCallback(async () => {
    if (!id) return;
    setTrouble(null);
    const openHere = (): SessionDocument | undefined => {
      const { session } = store.getState();
      return session?.id === id ? session.history?.present : undefined;
    };
    const asked = openHere();
    await getSession(id)
      .then(async (view) => {
        // What it waits for is decided in the list, and told when it is.
        setGathering(view.gathering);
        if (view.gathering)
          return setTrouble(
            'This session waits for more recordings. It opens when they are here; in the list, “Make it of these” opens it with those that are.',
          );
        const draft = view.may === 'change' ? findDraft(id) : null;
        const there = view.document && (await fetchHistory(id, view.document).catch(() => null));
        // What was done while the answer was on its way stays; saving it asks which of the two counts.
        if (openHere() !== asked) return;
        stepsSent(id, there);
        // What this browser had not saved led on from there; where it had, the server knows all of it.
        const here = draft && findHistory(id, draft.document);
        dispatch(opened(view, draft, draft ? here : (there ?? (view.document && findHistory(id, view.document)))));
      })
      .catch((error: Error) => setTrouble(error.message));
  }, [id, dispatch]);

  useEffect(() => {
    void load();
    dispatch(
      changed({
        selection: null,
        looping: false,
        aside: null,
        candidate: null,
        shownVersion: null,
        lastVersion: null,
        solo: [],
        speed: 1,
      }),
    );
    return () => {
      dispatch(closed());
    };
  }, [load, dispatch]);

  useEffect(() => {
    const known = (): void =>
      void getSession(id!).then(
        ({ recordings }) => dispatch(recordingsKnown(recordings)),
        () => undefined,
      );
    return onJobEvent(
      ({ sessionId, job }) => {
        if (sessionId !== id || (job.kind !== 'read' && job.kind !== 'picture')) return;
        if (job.kind === 'picture') {
          if (job.state === 'done' || job.state === 'failed') known();
          return;
        }
        setProgress(job.progress);
        if (job.state === 'done' || job.state === 'failed') void (reading || gathering ? load : known)();
      },
      () => void (reading || gathering ? load : known)(),
    );
  }, [reading, gathering, id, load, dispatch]);

  // One of several that cannot be read does not hold up the others.
  const failed = session?.recordings.every(({ job }) => job.state === 'failed') ? session.recording.job.problem?.message : undefined;
  if (trouble || failed)
    return (
      <main className="p-6">
        <Notice
          tone="trouble"
          action={
            <Link to="/" className="text-ink">
              To the intake
            </Link>
          }
        >
          {trouble ?? failed}
        </Notice>
      </main>
    );
  if (!session || session.id !== id) return null;
  if (reading)
    return (
      <main className="p-6 text-soft">
        Reading {session.recordings.length > 1 ? `${session.recordings.length} recordings` : session.recording.fileName} …{' '}
        {Math.round(progress * 100)} %{again && ' (its samples had made room on the disk; all that was done is there)'}
      </main>
    );
  if (session.may === 'hear' && !talking) return <Navigate to={`/sessions/${id}/talk`} replace />;
  return (
    <WorkbenchProvider recordings={session.recordings} sampleRateHz={session.history!.present.sampleRateHz}>
      <Outlet context={{ reload: () => void load() } satisfies SessionOutlet} />
      {session.may === 'change' && !talking && <Elsewhere sessionId={id} onTaken={load} />}
      <ListeningBar />
    </WorkbenchProvider>
  );
}
