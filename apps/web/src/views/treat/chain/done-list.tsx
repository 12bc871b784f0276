import { Redo2, Undo2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import { setMinus } from '../../../components/figures.js';
import { redone, undone } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';

/** Undo, redo, and what was done as a list: a click goes back to just after that step. */
export function DoneList() {
  const history = useApp(({ session }) => session?.history);
  const dispatch = useAppDispatch();
  if (!history) return null;
  const steps = [...history.past.map(({ label }) => label), ...history.future.map(({ label }) => label)];
  const now = history.past.length;
  const goTo = (count: number): void => {
    for (let i = now; i > count; i--) dispatch(undone());
    for (let i = now; i < count; i++) dispatch(redone());
  };
  const icon = 'rounded-sheet p-1 hover:text-ink disabled:opacity-35';
  return (
    <div className="flex items-center gap-1 text-soft">
      <button
        type="button"
        aria-label="Undo"
        title="Undo (Ctrl Z)"
        disabled={now === 0}
        className={icon}
        onClick={() => dispatch(undone())}
      >
        <Undo2 size={15} />
      </button>
      <button
        type="button"
        aria-label="Redo"
        title="Redo (Ctrl Shift Z)"
        disabled={history.future.length === 0}
        className={icon}
        onClick={() => dispatch(redone())}
      >
        <Redo2 size={15} />
      </button>
      <Popover.Root>
        <Popover.Trigger className="px-1 text-[12px] hover:text-ink">
          {now === 0 ? 'nothing done yet' : `${now} ${now === 1 ? 'step' : 'steps'} done`}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content align="end" className="z-20 max-h-[60vh] w-[300px] overflow-auto rounded-sheet border border-ink bg-sheet py-1">
            <Item label="As it was opened" done current={now === 0} onClick={() => goTo(0)} />
            {steps.map((label, i) => (
              <Item key={i} label={label} done={i < now} current={i + 1 === now} onClick={() => goTo(i + 1)} />
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}

function Item({
  label,
  done,
  current,
  onClick,
}: {
  readonly label: string;
  readonly done: boolean;
  readonly current: boolean;
  readonly onClick: () => void;
}) {
  return (
    <button
      type="button"
      onClick={onClick}
      className={`block w-full px-3 py-1 text-left hover:bg-faint ${done ? '' : 'text-soft line-through'} ${current ? 'font-semibold' : ''}`}
    >
      {setMinus(label)}
    </button>
  );
}
