import type { BatchRow } from '@euphonos/contracts';
import { format } from 'date-fns';
import { Trash2 } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { listBatches, removeBatch } from '../../api/batches.js';
import { Notice } from '../../components/notice.js';
import { StartBatchForm } from './start-batch-form.js';

/** Batches, and how to start one. */
export function Batches() {
  const [rows, setRows] = useState<readonly BatchRow[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const load = useCallback(() => {
    listBatches().then(setRows, (error: Error) => setTrouble(error.message));
  }, []);
  useEffect(load, [load]);
  return (
    <main className="min-h-0 grow overflow-y-auto">
      <div className="mx-auto max-w-[1080px] px-5 py-7">
        <h1 className="m-0 text-[22px]">Batches</h1>
        <p className="m-0 mt-1 mb-4 text-soft">
          Many recordings, each cleaned by itself to one target. Each stays a session of its own; those that somebody should hear say why.
        </p>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        <StartBatchForm />
        <ul className="m-0 mt-6 list-none p-0">
          {rows?.map(({ id, name, createdAt, all, done, failed, folder }) => (
            <li key={id} className="flex items-baseline gap-4 border-t border-line py-2">
              <Link to={`/batches/${id}`} className="min-w-0 grow truncate font-semibold text-ink no-underline hover:underline">
                {name}
              </Link>
              <span className="text-[13px] text-soft">
                {all} recordings, {done} done{failed > 0 && <span className="text-removed">, {failed} failed</span>}
                {folder && ` · watches ${folder}`}
              </span>
              <span className="text-[13px] text-soft">{format(createdAt, 'd MMM HH:mm')}</span>
              <button
                type="button"
                aria-label={`Remove the list ${name}`}
                title="The list goes; its sessions stay"
                className="text-soft hover:text-removed"
                onClick={() => void removeBatch(id).then(load, (error: Error) => toast.error(error.message))}
              >
                <Trash2 size={14} />
              </button>
            </li>
          ))}
        </ul>
      </div>
    </main>
  );
}
