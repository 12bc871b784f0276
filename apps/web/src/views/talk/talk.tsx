import { useEffect } from 'react';
import { useOutletContext } from 'react-router';
import { Notice } from '../../components/notice.js';
import { changed } from '../../store/listening-slice.js';
import { lockedChanged } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useKeys } from '../../shell/use-keys.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { Lanes } from '../treat/lanes/lanes.js';
import { Overview } from '../treat/overview.js';
import { Strip } from '../treat/strip.js';
import { StripsFrame } from '../treat/strips.js';
import { TimeAxis } from '../treat/time-axis.js';
import type { SessionOutlet } from '../session-room.js';
import { CommentLane } from './comment-lane.js';
import { TalkColumn } from './talk-column.js';

/** Hearing a session without changing it, and saying what one thinks of it, at a time. */
export function Talk() {
  const dispatch = useAppDispatch();
  const several = useApp(({ session }) => session!.history!.present.tracks.length > 1);
  const revision = useApp(({ session }) => session!.revision);
  const latest = useApp(({ talk }) => talk.talk?.revision);
  const unsaved = useApp(({ session }) => session!.save.kind !== 'saved');
  const { view } = useWorkbench();
  const { reload } = useOutletContext<SessionOutlet>();
  const picture = useApp(({ listening }) => listening.picture);
  useEffect(() => {
    dispatch(lockedChanged(true));
    dispatch(changed({ lane: 'result', aside: null, openTreatmentId: null, together: several }));
    return () => void dispatch(lockedChanged(false));
  }, [dispatch, several]);
  useKeys('w', () => dispatch(changed({ picture: picture === 'wave' ? 'spectrogram' : 'wave' })));
  useKeys('escape', () => dispatch(changed({ selection: null, band: null })));
  useKeys('left', () => view.scroll(-0.15 * view.widthPx));
  useKeys('right', () => view.scroll(0.15 * view.widthPx));
  useKeys('f', () => view.showAll());
  const stale = latest !== undefined && latest > revision && !unsaved;
  return (
    <main className="flex min-h-0 grow">
      <div className="flex min-w-0 grow flex-col gap-2 px-5 pt-3 pb-1.5">
        <h1 className="sr-only">Talk</h1>
        {stale && (
          <Notice
            tone="word"
            action={
              <button type="button" className="press" onClick={reload}>
                Hear what there is now
              </button>
            }
          >
            The session was changed since you opened it.
          </Notice>
        )}
        {several ? <Lanes /> : <Overview />}
        <CommentLane rows={4} />
        <StripsFrame>
          <Strip lane="result" />
          <Strip lane="source" />
        </StripsFrame>
        <TimeAxis />
      </div>
      <TalkColumn stale={stale} />
    </main>
  );
}
