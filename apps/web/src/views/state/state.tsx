import type { JobKind, StateView } from '@euphonos/contracts';
import { formatBytes, formatTime } from '@euphonos/engine';
import { format, formatDistanceToNow } from 'date-fns';
import { Link } from 'react-router';
import { Notice } from '../../components/notice.js';
import { RoomBar } from './room-bar.js';
import { useStateView } from './use-state-view.js';

const KINDS: Readonly<Record<JobKind, string>> = {
  read: 'Reading recordings',
  survey: 'Surveys',
  render: 'Renders',
  picture: 'Small pictures',
  batch: 'Items of batches',
};

/** How this installation is, for whoever looks after it. */
export function State() {
  const { state, trouble } = useStateView();
  return (
    <main className="min-h-0 grow overflow-y-auto">
      <div className="mx-auto max-w-[1080px] px-5 py-7">
        <h1 className="m-0 text-[22px]">State</h1>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        {state && <Told state={state} />}
      </div>
    </main>
  );
}

function Told({ state: { startedAt, work, workers, failed, room, backup, versions } }: { readonly state: StateView }) {
  return (
    <>
      <p className="m-0 mt-1 text-soft">The server has run for {formatDistanceToNow(startedAt)}.</p>
      <RoomBar room={room} />
      <section aria-labelledby="work" className="mt-7">
        <h2 id="work" className="m-0 text-[16px]">
          Work
        </h2>
        {work.length === 0 ? (
          <p className="m-0 mt-1 text-soft">Nothing is at work, nothing waits.</p>
        ) : (
          <ul className="m-0 mt-1 list-none p-0">
            {work.map(({ kind, queued, running, longestWaitSeconds }) => (
              <li key={kind} className="flex gap-4 border-t border-line py-1.5">
                <span className="grow">{KINDS[kind]}</span>
                <span className="tabular-nums w-[110px] text-right">{running} at work</span>
                <span className="tabular-nums w-[110px] text-right">{queued} waiting</span>
                <span className="tabular-nums w-[180px] text-right text-soft">
                  {queued > 0 && `the longest for ${formatTime(longestWaitSeconds, 0)}`}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-labelledby="workers" className="mt-7">
        <h2 id="workers" className="m-0 text-[16px]">
          Who works
        </h2>
        <ul className="m-0 mt-1 list-none p-0">
          {workers.map(({ name, serves, startedAt: since, running }) => (
            <li key={`${name} ${since}`} className="flex gap-4 border-t border-line py-1.5">
              <span className="grow">
                {name}
                <span className="text-soft">{serves ? ' · the server' : ' · works alone'}</span>
              </span>
              <span className="tabular-nums w-[110px] text-right">{running} at work</span>
              <span className="w-[180px] text-right text-soft">for {formatDistanceToNow(since)}</span>
            </li>
          ))}
        </ul>
        <p className="m-0 border-t border-line pt-1.5 text-[12px] text-soft">
          <code className="text-[12px]">npm run worker</code> on any machine that reaches the database and the store takes part in the work.
        </p>
      </section>
      <section aria-labelledby="failed" className="mt-7">
        <h2 id="failed" className="m-0 text-[16px]">
          What failed in the past seven days
        </h2>
        {failed.length === 0 && <p className="m-0 mt-1 text-soft">Nothing.</p>}
        <ul className="m-0 mt-1 list-none p-0">
          {failed.map(({ kind, createdAt, sessionId, sessionName, problem }) => (
            <li key={`${createdAt} ${sessionId}`} className="border-t border-line py-1.5">
              <div className="flex items-baseline gap-4">
                <span className="tabular-nums text-[13px] text-soft">{format(createdAt, 'd MMM HH:mm')}</span>
                <span className="grow truncate">
                  {KINDS[kind]}
                  {sessionName !== null && (
                    <>
                      {' · '}
                      <Link to={`/sessions/${sessionId}/treat`} className="text-ink underline decoration-line hover:decoration-ink">
                        {sessionName}
                      </Link>
                    </>
                  )}
                </span>
              </div>
              <p className="m-0 text-[13px] text-soft">{problem.message}</p>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="backup" className="mt-7">
        <h2 id="backup" className="m-0 text-[16px]">
          Last backup
        </h2>
        <p className="m-0 mt-1 text-soft">
          {backup ? (
            <>
              <span className="text-ink">{format(backup.madeAt, 'd MMMM yyyy, HH:mm')}</span>, {formatDistanceToNow(backup.madeAt)} ago:{' '}
              {formatBytes(backup.sizeBytes)} in <code className="text-[12px]">{backup.folder}</code>
            </>
          ) : (
            <>
              None was made here yet. <code className="text-[12px]">npm run backup FOLDER</code> makes one while work goes on.
            </>
          )}
        </p>
      </section>
      <section aria-labelledby="made-of" className="mt-7">
        <h2 id="made-of" className="m-0 text-[16px]">
          Versions
        </h2>
        <p className="m-0 mt-1 text-soft">
          {versions.map(({ name, version }) => `${name} ${version}`).join(' · ')}. Whoever watches by program finds figures at{' '}
          <code className="text-[12px]">/metrics</code> and an answer at <code className="text-[12px]">/health</code>.
        </p>
      </section>
    </>
  );
}
