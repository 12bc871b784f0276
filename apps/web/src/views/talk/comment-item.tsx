import { MOST_COMMENT_LENGTH, type AnswerView, type ChangeComment, type CommentView } from '@euphonos/contracts';
import { formatDistanceToNow } from 'date-fns';
import { useEffect, useRef, useState } from 'react';
import { formatTime } from '../../components/figures.js';

interface Props {
  readonly comment: CommentView;
  readonly chosen: boolean;
  readonly sampleRateHz: number;
  /** The state of the session that is open. */
  readonly revision: number;
  readonly onGoTo: () => void;
  readonly onAnswer: (text: string) => Promise<void>;
  readonly onChange: (id: string, change: ChangeComment) => void;
  readonly onTakeBack: (id: string) => void;
}

/** A comment with what was answered. */
export function CommentItem({ comment, chosen, sampleRateHz, revision, onGoTo, onAnswer, onChange, onTakeBack }: Props) {
  const { startFrame, endFrame, resolved, answers, maySettle } = comment;
  const [answering, setAnswering] = useState(false);
  const element = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (chosen) element.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  const time = (frame: number): string => formatTime(frame / sampleRateHz, 1);
  const where = startFrame === null ? 'all of it' : endFrame === null ? time(startFrame) : `${time(startFrame)}–${time(endFrame)}`;
  return (
    <li
      ref={element}
      aria-current={chosen}
      className={`border-t border-line px-4 py-2 ${chosen ? 'bg-focus/8' : ''} ${resolved ? 'text-soft' : ''}`}
    >
      <button type="button" className="text-[12px] text-focus hover:underline" title="Go there" onClick={onGoTo}>
        {where}
      </button>
      {comment.revision < revision && (
        <span className="text-[12px] text-soft" title="The session was changed since">
          {' '}
          · said of an earlier state
        </span>
      )}
      <Words said={comment} onChange={onChange} onTakeBack={onTakeBack} />
      {answers.length > 0 && (
        <ul className="m-0 mt-1 list-none border-l border-line p-0 pl-3">
          {answers.map((answer) => (
            <li key={answer.id} className="mt-1">
              <Words said={answer} onChange={onChange} onTakeBack={onTakeBack} />
            </li>
          ))}
        </ul>
      )}
      <div className="mt-1 flex items-center gap-3 text-[12px]">
        {answering ? (
          <Write
            label="Answer"
            start=""
            onDone={(text) => {
              setAnswering(false);
              if (text) void onAnswer(text);
            }}
          />
        ) : (
          <>
            <button type="button" className="text-soft hover:text-ink" onClick={() => setAnswering(true)}>
              Answer
            </button>
            {maySettle && (
              <button type="button" className="text-soft hover:text-ink" onClick={() => onChange(comment.id, { resolved: !resolved })}>
                {resolved ? 'Not settled' : 'Settled'}
              </button>
            )}
            {resolved && (
              <span className="text-soft">
                settled{resolved.by && ` by ${resolved.by}`}, {formatDistanceToNow(resolved.at)} ago
              </span>
            )}
          </>
        )}
      </div>
    </li>
  );
}

interface WordsProps {
  readonly said: AnswerView;
  readonly onChange: Props['onChange'];
  readonly onTakeBack: Props['onTakeBack'];
}

function Words({ said: { id, by, own, text, at, changed }, onChange, onTakeBack }: WordsProps) {
  const [writing, setWriting] = useState(false);
  return (
    <div className="group">
      <p className="m-0 flex items-baseline gap-2 text-[12px] text-soft">
        <span className="font-semibold text-ink">{by ?? 'You'}</span>
        <span title={new Date(at).toLocaleString()}>
          {formatDistanceToNow(at)} ago{changed && ', changed'}
        </span>
        {own && !writing && (
          <span className="ml-auto flex gap-2 opacity-0 group-hover:opacity-100 focus-within:opacity-100">
            <button type="button" className="hover:text-ink" onClick={() => setWriting(true)}>
              Change
            </button>
            <button type="button" className="hover:text-removed" onClick={() => onTakeBack(id)}>
              Take back
            </button>
          </span>
        )}
      </p>
      {writing ? (
        <Write
          label="Change the comment"
          start={text}
          onDone={(next) => {
            setWriting(false);
            if (next && next !== text) onChange(id, { text: next });
          }}
        />
      ) : (
        <p className="m-0 break-words whitespace-pre-wrap">{text}</p>
      )}
    </div>
  );
}

/** A field that is written into: Enter takes it, Escape or leaving it leaves it. */
function Write({
  label,
  start,
  onDone,
}: {
  readonly label: string;
  readonly start: string;
  readonly onDone: (text: string | null) => void;
}) {
  return (
    <textarea
      autoFocus
      aria-label={label}
      rows={2}
      maxLength={MOST_COMMENT_LENGTH}
      defaultValue={start}
      className="w-full resize-none rounded-sheet border border-line bg-sheet px-2 py-1 text-[14px] text-ink"
      onBlur={({ target }) => onDone(target.value.trim() || null)}
      onKeyDown={(event) => {
        if (event.key === 'Escape') {
          event.currentTarget.value = start;
          onDone(null);
        } else if (event.key === 'Enter' && !event.shiftKey) {
          event.preventDefault();
          event.currentTarget.blur();
        }
      }}
    />
  );
}
