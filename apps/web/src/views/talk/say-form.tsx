import { MOST_COMMENT_LENGTH, type MakeComment } from '@euphonos/contracts';
import { useRef, useState } from 'react';
import { formatTime } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

interface Props {
  readonly onSay: (body: MakeComment) => Promise<void>;
}

type Place = Pick<MakeComment, 'startFrame' | 'endFrame'>;

/** Something said of the selected stretch, of the moment at which somebody began to write, or of all of it. */
export function SayForm({ onSay }: Props) {
  const { player, sampleRateHz } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const [text, setText] = useState('');
  const [moment, setMoment] = useState<number | null>(null);
  const [ofAll, setOfAll] = useState(false);
  const field = useRef<HTMLTextAreaElement>(null);
  useKeys('enter', () => field.current?.focus(), { preventDefault: true });
  const place: Place = ofAll ? {} : selection ? { ...selection } : { startFrame: moment ?? player.frame };
  const time = (frame: number): string => formatTime(frame / sampleRateHz, 1);
  const words = ofAll
    ? 'of all of it'
    : selection
      ? `of ${time(selection.startFrame)}–${time(selection.endFrame)}`
      : moment !== null
        ? `at ${time(moment)}`
        : 'at the playhead, or of what is selected';
  const send = async (): Promise<void> => {
    if (text.trim() === '') return;
    await onSay({ text: text.trim(), ...place });
    setText('');
    setMoment(null);
    setOfAll(false);
    field.current?.blur();
  };
  return (
    <form
      className="border-t border-line px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <textarea
        ref={field}
        aria-label="Comment"
        placeholder="Say something of it"
        rows={2}
        maxLength={MOST_COMMENT_LENGTH}
        className="w-full resize-none rounded-sheet border border-line bg-sheet px-2 py-1.5"
        value={text}
        // While somebody writes it may play on: it is said of where they began.
        onFocus={() => text === '' && setMoment(player.frame)}
        onBlur={() => text === '' && setMoment(null)}
        onChange={({ target }) => setText(target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault();
            void send();
          }
          if (event.key === 'Escape') event.currentTarget.blur();
        }}
      />
      <div className="mt-1 flex items-center gap-3 text-[12px] text-soft">
        <span className="grow truncate">{words}</span>
        <label className="flex items-center gap-1">
          <input type="checkbox" className="accent-(--ink)" checked={ofAll} onChange={({ target }) => setOfAll(target.checked)} />
          of all
        </label>
        <button type="submit" className="press" disabled={text.trim() === ''}>
          Say it <span className="key">Enter</span>
        </button>
      </div>
    </form>
  );
}
