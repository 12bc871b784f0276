import type { ProductionView } from '@euphonos/contracts';
import { Archive, ArchiveRestore, FileArchive, Trash2, Users } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { changeProduction, makeProduction, removeProduction } from '../../api/productions.js';
import { Dialog } from '../../components/dialog.js';
import { useApp } from '../../store/store.js';
import { Sharing } from './sharing.js';
import { NameField } from '../../components/name-field.js';

interface Props {
  readonly productions: readonly ProductionView[];
  readonly onChange: () => void;
  readonly onClose: () => void;
}

/** Productions: make one, name it, put it away with all its sessions, dissolve it. */
export function ProductionsDialog({ productions, onChange, onClose }: Props) {
  const [name, setName] = useState('');
  const shared = useApp(({ who }) => who.who?.shared === true);
  const [sharing, setSharing] = useState<ProductionView | null>(null);
  const act = (work: Promise<unknown>): void => void work.then(onChange, (error: Error) => toast.error(error.message));
  return (
    <Dialog open title="Productions" onClose={onClose}>
      <ul className="m-0 list-none p-0 text-[13px]">
        {productions.map((production) => (
          <li key={production.id} className="flex items-center gap-2 border-t border-line py-1.5">
            {production.may === 'change' ? (
              <NameField name={production.name} onRename={(next) => act(changeProduction(production.id, { name: next }))} />
            ) : (
              <span className="grow px-1 font-semibold">{production.name}</span>
            )}
            <span className="text-soft">
              {production.sessions === 1 ? '1 session' : `${production.sessions} sessions`}
              {production.archived && ', archived'}
            </span>
            {shared && production.may === 'change' && (
              <button
                type="button"
                aria-label={`Share ${production.name}`}
                title="With whom it is shared"
                className="flex items-center gap-1 rounded-sheet p-1 text-soft hover:text-ink"
                onClick={() => setSharing(production)}
              >
                <Users size={14} /> {production.sharedWith}
              </button>
            )}
            {production.may === 'change' && (
              <>
                <a
                  href={`/api/productions/${production.id}/bundle`}
                  download
                  aria-label={`Bundle ${production.name}`}
                  title="All its sessions, with recordings, profiles, chains and versions, as one zip"
                  className="rounded-sheet p-1 text-soft hover:text-ink"
                >
                  <FileArchive size={14} />
                </a>
                <button
                  type="button"
                  aria-label={production.archived ? `Take ${production.name} out of the archive` : `Archive ${production.name}`}
                  title={production.archived ? 'Back to work, with its sessions' : 'Put away, with its sessions'}
                  className="rounded-sheet p-1 text-soft hover:text-ink"
                  onClick={() => act(changeProduction(production.id, { archived: !production.archived }))}
                >
                  {production.archived ? <ArchiveRestore size={14} /> : <Archive size={14} />}
                </button>
                <button
                  type="button"
                  aria-label={`Dissolve ${production.name}`}
                  title="Dissolve it; its sessions stay, in no production"
                  className="rounded-sheet p-1 text-soft hover:text-removed"
                  onClick={() => act(removeProduction(production.id))}
                >
                  <Trash2 size={14} />
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
      {productions.length === 0 && <p className="text-soft">None yet. A production holds the sessions of one piece of work together.</p>}
      {sharing && (
        <Sharing
          production={sharing}
          onClose={() => {
            setSharing(null);
            onChange();
          }}
        />
      )}
      <form
        className="mt-3 flex gap-2 text-[13px]"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() === '') return;
          act(makeProduction(name.trim()));
          setName('');
        }}
      >
        <input
          aria-label="Name of a new production"
          placeholder="A new production"
          maxLength={120}
          className="min-w-0 grow rounded-sheet border border-line bg-transparent px-2 py-1"
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <button type="submit" className="press-strong" disabled={name.trim() === ''}>
          Make it
        </button>
      </form>
    </Dialog>
  );
}
