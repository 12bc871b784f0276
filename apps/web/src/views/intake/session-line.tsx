import type { RecordingView, SessionView } from '@euphonos/contracts';
import { endOf, SCHEMA_VERSION, type SessionDocument } from '@euphonos/engine';
import { formatDistanceToNow } from 'date-fns';
import { Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { removeSession, renameSession, sessionGathered } from '../../api/client.js';
import { Dialog } from '../../components/dialog.js';
import { channelWord, formatBytes, formatDb, formatRate, formatTime } from '../../components/figures.js';
import { TinyWave } from './tiny-wave.js';

/** One session of the list: what it is, where it stands, what can be done with it. */
export function SessionLine({ session, onChange }: { readonly session: SessionView; readonly onChange: () => void }) {
  const { recording, recordings, id } = session;
  const several = recordings.length > 1;
  const [name, setName] = useState<string | null>(null);
  const [removing, setRemoving] = useState(false);
  const tell = (error: Error): void => {
    toast.error(error.message);
  };
  const rename = (): void => {
    const next = name?.trim();
    setName(null);
    if (next && next !== session.name) renameSession(id, next).then(onChange, tell);
  };
  return (
    <li className="group flex items-center gap-5 border-t border-line py-3 last:border-b">
      {recording.facts ? <TinyWave recording={recording} /> : <div className="w-[168px] shrink-0" />}
      <div className="min-w-0 grow">
        {name === null ? (
          <Link
            to={`/sessions/${id}/treat`}
            className="block truncate font-serif text-[16px] font-semibold text-ink no-underline hover:underline"
            title={session.name}
          >
            {session.name}
          </Link>
        ) : (
          <input
            autoFocus
            aria-label="Name of the session"
            maxLength={200}
            className="w-full rounded-sheet border border-line bg-sheet px-1 font-serif text-[16px] font-semibold"
            value={name}
            onChange={(event) => setName(event.target.value)}
            onBlur={rename}
            onKeyDown={(event) => (event.key === 'Enter' ? rename() : event.key === 'Escape' && setName(null))}
          />
        )}
        <p className="m-0 truncate text-[12px] text-soft">
          {several
            ? `${recordings.length} recordings · ${formatBytes(recordings.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0))} · ${recordings.map(({ fileName }) => fileName).join(', ')}`
            : `${recording.fileName} · ${formatBytes(recording.sizeBytes)}`}
          {!several &&
            recording.facts &&
            ` · ${formatRate(recording.facts.fileSampleRateHz)} ${channelWord(recording.facts.channels)} ${recording.facts.codec}`}
        </p>
        {recordings.flatMap(({ id: of, fileName, facts, job }) =>
          [...(facts?.notes ?? []), ...(several && job.state === 'failed' ? [job.problem?.message ?? 'It could not be read.'] : [])].map(
            (note) => (
              <p key={`${of}${note}`} className="m-0 text-[12px] text-removed">
                {several && `${fileName}: `}
                {note}
              </p>
            ),
          ),
        )}
      </div>
      <State session={session} onChange={onChange} />
      <div className="flex shrink-0 gap-1 text-soft opacity-0 focus-within:opacity-100 group-hover:opacity-100">
        <button
          type="button"
          aria-label={`Rename ${session.name}`}
          title="Rename"
          className="rounded-sheet p-1 hover:text-ink"
          onClick={() => setName(session.name)}
        >
          <Pencil size={15} />
        </button>
        <button
          type="button"
          aria-label={`Remove ${session.name}`}
          title="Remove"
          className="rounded-sheet p-1 hover:text-removed"
          onClick={() => setRemoving(true)}
        >
          <Trash2 size={15} />
        </button>
      </div>
      <Dialog open={removing} title={`Remove “${session.name}”?`} onClose={() => setRemoving(false)}>
        <p className="mt-0">
          The session, its recordings here and its deliveries are removed for good. The file on your disk stays where it is.
        </p>
        <div className="flex justify-end gap-2">
          <button type="button" className="press" onClick={() => setRemoving(false)}>
            Keep it
          </button>
          <button type="button" className="press border-removed text-removed" onClick={() => removeSession(id).then(onChange, tell)}>
            Remove
          </button>
        </div>
      </Dialog>
    </li>
  );
}

function State({ session, onChange }: { readonly session: SessionView; readonly onChange: () => void }) {
  const { id, document, recording, recordings, gathering, lastDelivery, updatedAt } = session;
  const { job, facts } = recordings.length > 1 ? furthestBack(recordings) : recording;
  if (gathering)
    return (
      <div className="flex w-[330px] shrink-0 items-center justify-between gap-2 text-[12px] text-soft" role="status">
        {recordings.length} here; more were on their way.
        <button
          type="button"
          className="press"
          onClick={() => sessionGathered(id).then(onChange, (error: Error) => toast.error(error.message))}
        >
          Make it of these
        </button>
      </div>
    );
  if (job.state === 'failed')
    return (
      <p role="alert" className="m-0 w-[330px] shrink-0 text-[12px] text-removed">
        {job.problem?.message}
      </p>
    );
  if (!facts || !document)
    return (
      <div className="w-[330px] shrink-0 text-[12px] text-soft" role="status">
        Reading … {Math.round(job.progress * 100)} %
        <i className="mt-1 block h-[3px] bg-result" style={{ width: `${job.progress * 100}%` }} />
      </div>
    );
  return (
    <dl className="m-0 grid w-[330px] shrink-0 grid-cols-[68px_92px_auto] text-[12px] [&_dd]:m-0 [&_dt]:text-soft">
      <dt>Length</dt>
      <dt>Noise floor</dt>
      <dt>Last delivery</dt>
      <dd className="text-[14px]">{formatTime(lengthOf(document), 0)}</dd>
      <dd className="text-[14px]">{formatDb(facts.figures.noiseFloorDbfs, 'dBFS')}</dd>
      <dd className="text-[14px]">
        {lastDelivery ? (
          <span className={lastDelivery.passed ? 'text-result' : 'text-removed'}>
            {formatDb(lastDelivery.integratedLufs, 'LUFS')}, {lastDelivery.passed ? 'passed' : 'failed'}
          </span>
        ) : (
          <span className="text-soft">none · {formatDistanceToNow(updatedAt)} old</span>
        )}
      </dd>
    </dl>
  );
}

/** Of several the one that says most of how far they are: what is still read; else the first that could be read. */
const furthestBack = (recordings: readonly RecordingView[]): RecordingView =>
  recordings.find(({ job }) => job.state === 'running' || job.state === 'queued') ??
  recordings.find(({ facts }) => facts !== null) ??
  recordings[0]!;

/** Of a document that a newer program wrote nothing is known. */
const lengthOf = ({ schemaVersion, tracks, sampleRateHz }: SessionDocument): number =>
  schemaVersion === SCHEMA_VERSION ? Math.max(0, ...tracks.map(({ clips }) => endOf(clips))) / sampleRateHz : NaN;
