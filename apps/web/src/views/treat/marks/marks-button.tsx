import type { Mark } from '@euphonos/engine';
import { Repeat, X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { formatTime } from '../../../components/figures.js';
import { NameField } from '../../../components/name-field.js';
import { useKeys } from '../../../shell/use-keys.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { MarkFiles } from './mark-files.js';
import { useMarks } from './use-marks.js';

/** Marks and named spans as a list: go there, repeat, name, note. */
export function MarksButton() {
  const { marks, add, goTo, step, loop, set, remove } = useMarks();
  const { sampleRateHz } = useWorkbench();
  const [open, setOpen] = useState(false);
  const [fresh, setFresh] = useState<string | null>(null);
  useKeys(
    '8',
    () => {
      setFresh(add());
      setOpen(true);
    },
    // Else the sign comes into the field of the name, which has the focus then.
    { preventDefault: true },
  );
  useKeys('7', () => step(-1));
  useKeys('9', () => step(1));
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="press shrink-0 py-0! text-[12px]" title="Marks and named spans (8 marks the playhead or the selection)">
        {marks.length === 0 ? 'Marks' : marks.length === 1 ? '1 mark' : `${marks.length} marks`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          aria-label="Marks"
          onOpenAutoFocus={(event) => event.preventDefault()}
          className="z-20 max-h-[60vh] w-[460px] overflow-auto rounded-sheet border border-ink bg-sheet p-3 text-[13px]"
        >
          <div className="mb-2 flex items-center gap-3 text-[12px] text-soft">
            <button type="button" className="press py-0.5! text-ink" onClick={() => setFresh(add())}>
              Mark here <span className="key">8</span>
            </button>
            <span>
              <span className="key">7</span> <span className="key">9</span> the one before, the next
            </span>
          </div>
          {marks.length === 0 && (
            <p className="m-0 text-[12px] text-soft">
              A place, or the selected span, gets a name: to go back there, to repeat it, to note what is to do.
            </p>
          )}
          <ul className="m-0 list-none p-0">
            {marks.map((mark) => (
              <MarkLine
                key={mark.id}
                mark={mark}
                sampleRateHz={sampleRateHz}
                fresh={mark.id === fresh}
                onGo={() => goTo(mark)}
                onLoop={() => loop(mark)}
                onSet={(change) => {
                  setFresh(null);
                  set(mark.id, change);
                }}
                onRemove={() => remove(mark.id)}
              />
            ))}
          </ul>
          <MarkFiles marks={marks} sampleRateHz={sampleRateHz} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface Props {
  readonly mark: Mark;
  readonly sampleRateHz: number;
  readonly fresh: boolean;
  readonly onGo: () => void;
  readonly onLoop: () => void;
  readonly onSet: (change: Partial<Omit<Mark, 'id'>>) => void;
  readonly onRemove: () => void;
}

function MarkLine({ mark, sampleRateHz, fresh, onGo, onLoop, onSet, onRemove }: Props) {
  const { id, name, note, startFrame, endFrame } = mark;
  const field = 'rounded-sheet border border-transparent bg-transparent px-1 hover:border-line focus:border-line';
  return (
    <li className="border-t border-faint py-1" data-mark={id}>
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="w-[118px] shrink-0 text-left text-removed underline decoration-dotted"
          title="Go there"
          onClick={onGo}
        >
          {formatTime(startFrame / sampleRateHz, 2)}
          {endFrame !== null && `–${formatTime(endFrame / sampleRateHz, 2)}`}
        </button>
        <NameField
          name={name}
          label={`Name of the mark at ${formatTime(startFrame / sampleRateHz, 2)}`}
          fresh={fresh}
          mayBeEmpty
          onRename={(next) => onSet({ name: next })}
        />
        {endFrame !== null && (
          <button type="button" aria-label={`Repeat ${name}`} title="Repeat it" className="text-soft hover:text-ink" onClick={onLoop}>
            <Repeat size={13} />
          </button>
        )}
        <button type="button" aria-label={`Remove ${name}`} title="Remove" className="text-soft hover:text-removed" onClick={onRemove}>
          <X size={13} />
        </button>
      </div>
      <input
        key={note}
        aria-label={`Note at ${name}`}
        placeholder="note"
        maxLength={2000}
        defaultValue={note}
        className={`ml-[124px] w-[calc(100%-170px)] text-[12px] text-soft ${field}`}
        onBlur={({ target }) => target.value !== note && onSet({ note: target.value })}
        onKeyDown={({ key, currentTarget }) => key === 'Enter' && currentTarget.blur()}
      />
    </li>
  );
}
