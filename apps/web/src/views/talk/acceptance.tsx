import type { AcceptanceView } from '@euphonos/contracts';
import { formatDistanceToNow } from 'date-fns';
import { useState } from 'react';

interface Props {
  readonly acceptances: readonly AcceptanceView[];
  readonly revision: number;
  readonly disabled: boolean;
  readonly onAccept: (accepted: boolean, note: string) => Promise<void>;
}

/** Whether those who heard it find it good, and one's own word. */
export function Acceptance({ acceptances, revision, disabled, onAccept }: Props) {
  const [note, setNote] = useState('');
  const now = acceptances.filter((one) => one.revision === revision);
  const mine = now.find(({ own }) => own);
  const give = (accepted: boolean): void => void onAccept(accepted, note.trim()).then(() => setNote(''));
  return (
    <section aria-labelledby="word" className="border-b border-line px-4 py-3">
      <h2 id="word" className="m-0 text-[16px]">
        {now.length === 0 ? 'Is it good?' : now.every(({ accepted }) => accepted) ? 'Good, as it is' : 'Not yet'}
      </h2>
      <ul className="m-0 mt-1 list-none p-0 text-[13px]">
        {acceptances.map(({ by, accepted, note: said, at, revision: heard }) => (
          <li key={`${by} ${at}`} className={heard < revision ? 'text-soft' : ''}>
            <span className="font-semibold">{by ?? 'You'}</span>:{' '}
            <span className={heard < revision ? '' : accepted ? 'text-result' : 'text-removed'}>{accepted ? 'good' : 'not yet'}</span>
            <span className="text-soft">
              , {formatDistanceToNow(at)} ago{heard < revision && ', of an earlier state'}
            </span>
            {said && <span className="block pl-3">{said}</span>}
          </li>
        ))}
      </ul>
      <div className="mt-2 flex items-center gap-2">
        <input
          aria-label="A word with it"
          placeholder="a word with it"
          maxLength={300}
          className="min-w-0 grow rounded-sheet border border-line bg-sheet px-2 py-1 text-[13px]"
          value={note}
          onChange={({ target }) => setNote(target.value)}
        />
        <button type="button" className="press" aria-pressed={mine?.accepted === false} disabled={disabled} onClick={() => give(false)}>
          Not yet
        </button>
        <button
          type="button"
          className="press-strong px-2.5! py-1!"
          aria-pressed={mine?.accepted === true}
          disabled={disabled}
          onClick={() => give(true)}
        >
          It is good
        </button>
      </div>
    </section>
  );
}
