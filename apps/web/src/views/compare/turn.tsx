import type { Answer } from './blind-test.js';

interface Props {
  readonly said: number;
  readonly onAnswer: (said: Answer) => void;
  readonly onFinish: () => void;
}

/** One turn of a blind test: which of the two X is. */
export const Turn = ({ said, onAnswer, onFinish }: Props) => (
  <div className="flex items-center gap-3 text-[13px]">
    <button type="button" className="press-strong" onClick={() => onAnswer('a')}>
      X is A <span className="key">←</span>
    </button>
    <button type="button" className="press-strong" onClick={() => onAnswer('b')}>
      X is B <span className="key">→</span>
    </button>
    <span className="grow text-soft" data-trials={said}>
      {said === 0 ? 'first turn' : `${said} said`}
    </span>
    <button type="button" className="press" disabled={said === 0} onClick={onFinish}>
      Tell me
    </button>
  </div>
);
