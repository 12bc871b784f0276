import { formatTime } from '../../components/figures.js';
import { format } from 'date-fns';
import { useDesk, useDeskState } from './use-desk.js';

/** What an earlier page left when it was closed or killed in the middle of a take. */
export function LeftTakes() {
  const desk = useDesk();
  const left = useDeskState((state) => state.left);
  return left.map((take) => (
    <div
      key={take.id}
      role="status"
      className="mx-5 mt-3 flex items-center gap-3 rounded-sheet border border-ink bg-sheet px-3 py-1.5"
      data-left
    >
      <span className="grow">
        <b className="font-semibold">{take.name}</b> of {format(take.startedAt, 'd MMM, HH:mm')} was never ended:{' '}
        {formatTime(take.frames / take.sampleRateHz, 1)} of it are kept on {take.onServer ? 'the server' : 'this machine'}.
      </span>
      <button type="button" className="press" onClick={() => desk.takes.settleLeft(take, true)}>
        Into a session
      </button>
      <button type="button" className="press" onClick={() => desk.takes.settleLeft(take, false)}>
        Throw away
      </button>
    </div>
  ));
}
