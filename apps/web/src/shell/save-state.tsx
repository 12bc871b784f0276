import { keptMine, opened } from '../store/session-slice.js';
import { useApp, useAppDispatch } from '../store/store.js';
import { getSession } from '../api/client.js';
import { Dialog } from '../components/dialog.js';
import { toast } from 'sonner';

/** Says in the top bar where the saving stands, and asks when somebody else has saved in between. */
export function SaveState() {
  const session = useApp((state) => state.session);
  const dispatch = useAppDispatch();
  if (!session?.history) return null;
  const { save, revision, id } = session;
  const words = {
    saved: `Saved · revision ${revision}`,
    waiting: 'Saving …',
    saving: 'Saving …',
    retrying: 'Not saved yet',
    stale: 'Changed elsewhere',
    refused: 'Not saved',
  }[save.kind];
  const takeTheirs = (): void => {
    getSession(id).then(
      (view) => dispatch(opened(view)),
      (error: Error) => toast.error(error.message),
    );
  };
  return (
    <>
      <span
        role="status"
        className={save.kind === 'retrying' || save.kind === 'refused' ? 'text-removed' : 'text-soft'}
        title={'message' in save ? save.message : undefined}
      >
        {words}
      </span>
      <Dialog open={save.kind === 'stale'} title="This session was changed elsewhere" onClose={() => undefined}>
        <p className="mt-0">{save.kind === 'stale' ? save.message : ''}</p>
        <p>Nothing of either state is lost yet: choose which one goes on.</p>
        <div className="flex justify-end gap-2">
          <button type="button" className="press" onClick={takeTheirs}>
            Go on with the saved state
          </button>
          <button type="button" className="press-strong" onClick={() => dispatch(keptMine())}>
            Keep what is here
          </button>
        </div>
      </Dialog>
    </>
  );
}
