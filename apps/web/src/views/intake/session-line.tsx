import { KEPT_DAYS, type SessionRow } from '@euphonos/contracts';
import { addDays, formatDistanceToNow } from 'date-fns';
import { Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { renameSession, removeSession, sessionGathered } from '../../api/client.js';
import { changeSessions } from '../../api/productions.js';
import { channelWord, formatBytes, formatDb, formatRate, formatTime } from '../../components/figures.js';
import { leftInWords } from './session-filters.js';
import { TinyWave } from './tiny-wave.js';

interface Props {
  readonly session: SessionRow;
  readonly chosen: boolean;
  readonly onChoose: (chosen: boolean, upTo: boolean) => void;
  readonly onChange: () => void;
}

/** One session of the list: what it is, where it stands, what can be done with it. */
export function SessionLine({ session, chosen, onChoose, onChange }: Props) {
  const { id, name, production, recording, recordings, sizeBytes, tracks, deletedAt, may } = session;
  const [naming, setNaming] = useState(false);
  const tell = (error: Error): void => void toast.error(error.message);
  const facts = [
    recordings > 1 ? `${recordings} recordings${tracks > 1 ? ` on ${tracks} tracks` : ''}` : recording.fileName,
    formatBytes(sizeBytes),
    ...(recordings === 1 && recording.channels !== null
      ? [`${formatRate(recording.fileSampleRateHz!)} ${channelWord(recording.channels)} ${recording.codec ?? ''}`]
      : []),
  ];
  const remove = (): void => {
    removeSession(id).then(() => {
      toast(`“${name}” deleted; kept for ${KEPT_DAYS} days.`, {
        action: { label: 'Undo', onClick: () => void changeSessions({ ids: [id], deleted: false }).then(onChange, tell) },
      });
      onChange();
    }, tell);
  };
  return (
    <div className={`group flex h-full items-center gap-4 border-t border-line ${chosen ? 'bg-sheet' : ''}`}>
      <input
        type="checkbox"
        aria-label={`Choose ${name}`}
        className={`ml-1 size-[15px] shrink-0 accent-(--ink) ${may === 'hear' ? 'invisible' : ''}`}
        checked={chosen}
        onChange={() => undefined}
        onClick={({ shiftKey, currentTarget }) => onChoose(currentTarget.checked, shiftKey)}
      />
      {recording.lengthFrames !== null ? (
        <TinyWave recordingId={recording.id} lengthFrames={recording.lengthFrames} />
      ) : (
        <div className="w-[168px] shrink-0" />
      )}
      <div className="min-w-0 grow">
        {naming ? (
          <input
            autoFocus
            aria-label="Name of the session"
            maxLength={200}
            className="w-full rounded-sheet border border-line bg-sheet px-1 font-serif text-[16px] font-semibold"
            defaultValue={name}
            onBlur={({ target }) => {
              setNaming(false);
              const next = target.value.trim();
              if (next !== '' && next !== name) renameSession(id, next).then(onChange, tell);
            }}
            onKeyDown={({ key, currentTarget }) => {
              if (key === 'Escape') currentTarget.value = name;
              if (key === 'Escape' || key === 'Enter') currentTarget.blur();
            }}
          />
        ) : deletedAt ? (
          <span className="block truncate font-serif text-[16px] font-semibold">{name}</span>
        ) : (
          <Link
            to={`/sessions/${id}/${may === 'hear' ? 'talk' : 'treat'}`}
            className="block truncate font-serif text-[16px] font-semibold text-ink no-underline hover:underline"
            title={name}
          >
            {name}
          </Link>
        )}
        <p className="m-0 truncate text-[12px] text-soft">
          {production && <span className="text-ink">{production.name} · </span>}
          <Said session={session} />
          {facts.join(' · ')}
        </p>
        {recording.notes.map((note) => (
          <p key={note} className="m-0 truncate text-[12px] text-removed" title={note}>
            {note}
          </p>
        ))}
      </div>
      <State session={session} onChange={onChange} />
      <div className="flex w-[50px] shrink-0 gap-1 text-soft opacity-0 group-hover:opacity-100 focus-within:opacity-100">
        {!deletedAt && may === 'change' && (
          <>
            <button
              type="button"
              aria-label={`Rename ${name}`}
              title="Rename"
              className="rounded-sheet p-1 hover:text-ink"
              onClick={() => setNaming(true)}
            >
              <Pencil size={15} />
            </button>
            <button
              type="button"
              aria-label={`Delete ${name}`}
              title={`Delete; it can be had back for ${KEPT_DAYS} days`}
              className="rounded-sheet p-1 hover:text-removed"
              onClick={remove}
            >
              <Trash2 size={15} />
            </button>
          </>
        )}
      </div>
    </div>
  );
}

/** What others do with it and say of it. */
function Said({ session: { heldBy, openComments, accepted } }: { readonly session: SessionRow }) {
  return (
    <>
      {heldBy && <span className="text-result">{heldBy} works on it · </span>}
      {accepted !== null && <span className={accepted ? 'text-result' : 'text-removed'}>{accepted ? 'good' : 'not yet good'} · </span>}
      {openComments > 0 && (
        <span className="text-focus">
          {openComments} {openComments === 1 ? 'comment' : 'comments'} ·{' '}
        </span>
      )}
    </>
  );
}

function State({ session, onChange }: { readonly session: SessionRow; readonly onChange: () => void }) {
  const { id, left, recording, recordings, seconds, lastDelivery, updatedAt, deletedAt } = session;
  const { job } = recording;
  if (deletedAt)
    return (
      <p className="m-0 w-[360px] shrink-0 text-[12px] text-soft">
        Deleted {formatDistanceToNow(deletedAt)} ago; goes for good in {formatDistanceToNow(addDays(deletedAt, KEPT_DAYS))}.
      </p>
    );
  if (left === 'gathering')
    return (
      <div className="flex w-[360px] shrink-0 items-center justify-between gap-2 text-[12px] text-soft" role="status">
        {recordings} here; more were on their way.
        <button
          type="button"
          className="press"
          onClick={() => sessionGathered(id).then(onChange, (error: Error) => void toast.error(error.message))}
        >
          Make it of these
        </button>
      </div>
    );
  if (left === 'broken')
    return (
      <p role="alert" className="m-0 line-clamp-3 w-[360px] shrink-0 text-[12px] text-removed" title={job.problem?.message}>
        {job.problem?.message}
      </p>
    );
  if (left === 'reading')
    return (
      <div className="w-[360px] shrink-0 text-[12px] text-soft" role="status">
        Reading … {Math.round(job.progress * 100)} %
        <i className="mt-1 block h-[3px] bg-result" style={{ width: `${job.progress * 100}%` }} />
      </div>
    );
  return (
    <dl className="m-0 grid w-[360px] shrink-0 grid-cols-[60px_92px_auto] text-[12px] [&_dd]:m-0 [&_dt]:text-soft">
      <dt>Length</dt>
      <dt>Noise floor</dt>
      <dt>{lastDelivery ? 'Last delivery' : 'Left to do'}</dt>
      <dd className="text-[14px]">{formatTime(seconds ?? NaN, 0)}</dd>
      <dd className="text-[14px]">{formatDb(recording.noiseFloorDbfs, 'dBFS')}</dd>
      <dd className="truncate text-[14px]" title={`Changed ${formatDistanceToNow(updatedAt)} ago`}>
        {lastDelivery ? (
          <span className={lastDelivery.passed ? 'text-result' : 'text-removed'}>
            {formatDb(lastDelivery.integratedLufs, 'LUFS')}, {lastDelivery.passed ? 'passed' : 'failed'}
            {left === 'hand-over' && <span className="text-soft"> · changed since</span>}
          </span>
        ) : (
          <span className="text-soft">
            {leftInWords[left]} · {formatDistanceToNow(updatedAt)} old
          </span>
        )}
      </dd>
    </dl>
  );
}
