import { leftToDo, type LeftToDo, type ProductionView, type SessionOrder, type Shelf } from '@euphonos/contracts';
import { ArrowDownUp, Search } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Choice } from '../../components/choice.js';
import { useKeys } from '../../shell/use-keys.js';
import type { Asked } from './use-session-list.js';

/** Typing is over after so long. */
const TYPED_MS = 180;

export const leftInWords: Record<LeftToDo, string> = {
  reading: 'being read',
  broken: 'could not be read',
  gathering: 'waits for more files',
  treat: 'to treat',
  'hand-over': 'to hand over',
  missed: 'delivery failed its check',
  done: 'handed over',
};
const orders: Record<SessionOrder, string> = {
  changed: 'last change',
  made: 'arrival',
  name: 'name',
  length: 'length',
  noise: 'noise floor',
};

interface Props {
  readonly asked: Asked;
  readonly onChange: (asked: Asked) => void;
  readonly productions: readonly ProductionView[];
  /** null for whoever only listens. */
  readonly onProductions: (() => void) | null;
}

/** Which sessions are listed, and in what order. */
export function SessionFilters({ asked, onChange, productions, onProductions }: Props) {
  const [typed, setTyped] = useState(asked.search ?? '');
  const input = useRef<HTMLInputElement>(null);
  const latest = useRef({ asked, onChange });
  useEffect(() => {
    latest.current = { asked, onChange };
  });
  useEffect(() => {
    const timer = setTimeout(() => {
      const { asked: now, onChange: tell } = latest.current;
      if (typed !== (now.search ?? '')) tell({ ...now, search: typed });
    }, TYPED_MS);
    return () => clearTimeout(timer);
  }, [typed]);
  useKeys('/', () => input.current?.focus(), { preventDefault: true });
  const change = (part: Asked): void => onChange({ ...asked, ...part });
  return (
    <div role="search" className="flex flex-wrap items-center gap-x-4 gap-y-2 pb-2 text-[13px]">
      <label className="flex w-[230px] items-center gap-1.5 rounded-sheet border border-line bg-sheet px-2 py-1 focus-within:border-focus">
        <Search size={14} className="shrink-0 text-soft" />
        <input
          ref={input}
          type="search"
          aria-label="Search sessions"
          placeholder="name, file, production"
          className="min-w-0 grow bg-transparent outline-none placeholder:text-soft"
          value={typed}
          onChange={({ target }) => setTyped(target.value)}
          onKeyDown={({ key, currentTarget }) => {
            if (key !== 'Escape') return;
            setTyped('');
            currentTarget.blur();
          }}
        />
        <span className="key">/</span>
      </label>
      <Picker label="Production" value={asked.production ?? ''} onChange={(production) => change({ production })}>
        <option value="">every production</option>
        <option value="none">in none</option>
        {productions.map(({ id, name, sessions, archived }) => (
          <option key={id} value={id}>
            {name} ({sessions}){archived ? ', archived' : ''}
          </option>
        ))}
      </Picker>
      {onProductions && (
        <button type="button" className="press px-1.5! py-0!" onClick={onProductions}>
          Productions …
        </button>
      )}
      <Picker label="Left to do" value={asked.left ?? ''} onChange={(left) => change({ left: left as LeftToDo })}>
        <option value="">whatever is left to do</option>
        {leftToDo.map((left) => (
          <option key={left} value={left}>
            {leftInWords[left]}
          </option>
        ))}
      </Picker>
      <span className="flex items-center gap-1">
        <Picker label="Order" value={asked.sort ?? 'changed'} onChange={(sort) => change({ sort: sort as SessionOrder, reverse: false })}>
          {Object.entries(orders).map(([order, words]) => (
            <option key={order} value={order}>
              by {words}
            </option>
          ))}
        </Picker>
        <button
          type="button"
          aria-label="The other way round"
          aria-pressed={asked.reverse === true}
          title="The other way round"
          className={`rounded-sheet p-1 hover:text-ink ${asked.reverse ? 'text-ink' : 'text-soft'}`}
          onClick={() => change({ reverse: !asked.reverse })}
        >
          <ArrowDownUp size={14} />
        </button>
      </span>
      {onProductions && (
        <span className="ml-auto">
          <Choice
            label="Shelf"
            value={asked.shelf ?? 'work'}
            onChange={(shelf: Shelf) => change({ shelf })}
            choices={[
              { value: 'work', title: 'At work' },
              { value: 'archive', title: 'Archive', hint: 'Put away, by themselves or with their production' },
              { value: 'deleted', title: 'Deleted', hint: 'To be had back for 30 days' },
            ]}
          />
        </span>
      )}
    </div>
  );
}

interface PickerProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly children: React.ReactNode;
}

const Picker = ({ label, value, onChange, children }: PickerProps) => (
  <select
    aria-label={label}
    className="max-w-[190px] rounded-sheet border border-line bg-sheet px-1 py-1"
    value={value}
    onChange={({ target }) => onChange(target.value)}
  >
    {children}
  </select>
);
