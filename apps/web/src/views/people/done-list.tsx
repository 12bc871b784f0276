import type { DoneView, PersonView } from '@euphonos/contracts';
import { format } from 'date-fns';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { listDone } from '../../api/people.js';
import { doneWords } from './done-words.js';

/** Lines of when, who and what. */
export function DoneRows({ rows }: { readonly rows: readonly DoneView[] }) {
  return (
    <ul className="m-0 mt-1 list-none p-0 text-[13px]">
      {rows.map(({ id, at, until, times, person, action, subject }) => {
        const words = doneWords(action, subject);
        const [from, to] = [format(at, 'd MMM HH:mm'), format(until, 'HH:mm')];
        return (
          <li key={id} className="flex gap-4 border-t border-line py-1">
            <span className="w-[130px] shrink-0 text-soft">{from.endsWith(to) ? from : `${from}–${to}`}</span>
            <span className="w-[130px] shrink-0 truncate font-semibold">{person ?? 'somebody'}</span>
            <span className="grow truncate">
              {words.before}
              {words.subject !== null && <span className="font-serif">{words.subject}</span>}
              {words.after}
            </span>
            {times > 1 && <span className="text-soft">{times} times</span>}
          </li>
        );
      })}
    </ul>
  );
}

/** Who did what, the latest first. */
export function DoneList({ people }: { readonly people: readonly PersonView[] }) {
  const [rows, setRows] = useState<readonly DoneView[]>([]);
  const [next, setNext] = useState<string | null>(null);
  const [personId, setPersonId] = useState('');
  const load = useCallback(
    (before: string | null) =>
      void listDone(before, personId || null).then(
        (page) => {
          setRows((known) => (before ? [...known, ...page.rows] : page.rows));
          setNext(page.next);
        },
        (error: Error) => void toast.error(error.message),
      ),
    [personId],
  );
  useEffect(() => load(null), [load]);
  return (
    <section aria-labelledby="done" className="mt-8">
      <div className="flex items-baseline gap-4">
        <h2 id="done" className="m-0 grow text-[16px]">
          Who did what
        </h2>
        <select
          aria-label="Of whom"
          className="rounded-sheet border border-line bg-sheet px-1 py-0.5 text-[13px]"
          value={personId}
          onChange={({ target }) => setPersonId(target.value)}
        >
          <option value="">everybody</option>
          {people.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </div>
      <DoneRows rows={rows} />
      {next && (
        <button type="button" className="press mt-2" onClick={() => load(next)}>
          What was before
        </button>
      )}
    </section>
  );
}
