import { Link } from 'react-router';
import { formatTime } from '../../components/figures.js';
import type { TakeLine } from '../../sound-check/desk-state.js';
import { useDeskState } from './use-desk.js';

/** Takes of this sitting, the latest first: where each is, and in what it differs from the one before. */
export function TakesList() {
  const takes = useDeskState((state) => state.takes);
  const ended = takes.filter(({ report }) => report.state !== 'recording');
  if (ended.length === 0) return null;
  return (
    <section aria-label="Takes" className="px-5 pt-2 pb-1">
      <h2 className="m-0 text-[17px]">Takes</h2>
      <ul className="m-0 mt-1 list-none p-0">
        {ended.map((line) => (
          <Line key={line.report.id} {...line} />
        ))}
      </ul>
    </section>
  );
}

function Line({ report, view, difference }: TakeLine) {
  const { name, frames, sampleRateHz, marks, gaps, state, sendProblem } = report;
  const landed = view?.state === 'landed';
  const last = [...marks].reverse().find(({ kind }) => kind !== 'mark');
  return (
    <li className="flex items-baseline gap-4 border-t border-line py-1.5" data-take={view?.state ?? state}>
      <b className="w-[150px] shrink-0 truncate font-semibold">{name}</b>
      <span className="w-[64px] shrink-0">{formatTime(frames / sampleRateHz, 1)}</span>
      <span className={`w-[56px] shrink-0 ${last?.kind === 'good' ? 'text-result' : last ? 'text-removed' : 'text-soft'}`}>
        {last?.kind ?? '–'}
      </span>
      <span className="min-w-0 grow text-[13px] text-soft">
        {gaps.length > 0 && <span className="text-removed">{gaps.reduce((sum, gap) => sum + gap.frames, 0)} samples missing. </span>}
        {difference ? <span className="text-ink">{difference}</span> : difference === '' ? 'As the one before.' : ''}
        {sendProblem && state !== 'done' && (
          <span className="text-removed">{sendProblem} It is safe on this machine, and is sent as soon as that goes.</span>
        )}
      </span>
      {landed ? (
        <Link to={`/sessions/${view.sessionId}/treat`} className="press shrink-0 text-ink no-underline">
          Open in Treat
        </Link>
      ) : (
        <span className={`shrink-0 text-[13px] ${view?.problem ? 'text-removed' : 'text-soft'}`}>
          {view?.problem ?? (state === 'done' ? 'is surveyed …' : 'is sent …')}
        </span>
      )}
    </li>
  );
}
