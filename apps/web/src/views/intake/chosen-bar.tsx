import type { ProductionView, Shelf } from '@euphonos/contracts';
import { useState } from 'react';
import { toast } from 'sonner';
import { changeSessions, forgetSession, makeProduction } from '../../api/productions.js';
import { Dialog } from '../../components/dialog.js';

/** Stands for a production that is still to be made. */
const NEW = 'new';

interface Props {
  readonly ids: readonly string[];
  readonly shelf: Shelf;
  readonly productions: readonly ProductionView[];
  readonly onDone: () => void;
  readonly onClear: () => void;
}

/** What can be done with the chosen sessions: moved, put away, deleted, brought back. */
export function ChosenBar({ ids, shelf, productions, onDone, onClear }: Props) {
  const [naming, setNaming] = useState<string | null>(null);
  const [final, setFinal] = useState(false);
  const count = ids.length === 1 ? '1 session' : `${ids.length} sessions`;
  const act = (work: Promise<unknown>): void => void work.then(onDone, (error: Error) => toast.error(error.message));
  const change = (body: Omit<Parameters<typeof changeSessions>[0], 'ids'>): Promise<void> => changeSessions({ ids: [...ids], ...body });
  const remove = (): void => {
    act(
      change({ deleted: true }).then(() => {
        toast(`${count} deleted; kept for 30 days.`, {
          action: { label: 'Undo', onClick: () => act(change({ deleted: false })) },
        });
      }),
    );
  };
  return (
    <div
      role="toolbar"
      aria-label="Chosen sessions"
      className="flex flex-wrap items-center gap-2 border-t border-ink bg-sheet px-2 py-2 text-[13px]"
    >
      <b className="mr-2 font-semibold">{count}</b>
      {shelf === 'deleted' ? (
        <>
          <button type="button" className="press" onClick={() => act(change({ deleted: false }))}>
            Bring back
          </button>
          <button type="button" className="press border-removed text-removed" onClick={() => setFinal(true)}>
            Delete for good …
          </button>
        </>
      ) : (
        <>
          <select
            aria-label="Move to a production"
            className="rounded-sheet border border-line bg-transparent px-1 py-1"
            value=""
            onChange={({ target }) => {
              if (target.value === NEW) setNaming('');
              else act(change({ productionId: target.value === 'none' ? null : target.value }));
            }}
          >
            <option value="">move to …</option>
            {productions.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
            <option value={NEW}>a new production …</option>
            <option value="none">no production</option>
          </select>
          <button type="button" className="press" onClick={() => act(change({ archived: shelf === 'work' }))}>
            {shelf === 'work' ? 'Archive' : 'Back to work'}
          </button>
          <button type="button" className="press text-removed" onClick={remove}>
            Delete
          </button>
        </>
      )}
      <button type="button" className="ml-auto text-soft hover:text-ink" onClick={onClear}>
        choose none <span className="key">Esc</span>
      </button>
      <Dialog open={naming !== null} title="A new production" onClose={() => setNaming(null)}>
        <form
          className="flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            const name = naming?.trim();
            setNaming(null);
            if (name) act(makeProduction(name).then(({ id }) => change({ productionId: id })));
          }}
        >
          <input
            autoFocus
            aria-label="Its name"
            maxLength={120}
            className="min-w-0 grow rounded-sheet border border-line bg-transparent px-2 py-1"
            value={naming ?? ''}
            onChange={({ target }) => setNaming(target.value)}
          />
          <button type="submit" className="press-strong">
            Make it, move {count} there
          </button>
        </form>
      </Dialog>
      <Dialog open={final} title={`Delete ${count} for good?`} onClose={() => setFinal(false)}>
        <p className="mt-0">
          The sessions, their recordings here and their deliveries are gone at once. Files on your disk stay where they are.
        </p>
        <div className="flex justify-end gap-2">
          <button type="button" className="press" onClick={() => setFinal(false)}>
            Keep
          </button>
          <button
            type="button"
            className="press border-removed text-removed"
            onClick={() => {
              setFinal(false);
              act(Promise.all(ids.map(forgetSession)));
            }}
          >
            Delete for good
          </button>
        </div>
      </Dialog>
    </div>
  );
}
