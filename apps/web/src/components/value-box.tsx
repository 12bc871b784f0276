import { useState } from 'react';
import { flushSync } from 'react-dom';
import { readNumber } from './ruler-scale.js';

interface Props {
  readonly title: string;
  readonly text: string;
  readonly value: number;
  readonly disabled: boolean;
  readonly onChange: (value: number) => void;
}

/** The number beside a ruler: type another one; Enter or leaving takes it, Escape leaves it. */
export function ValueBox({ title, text, value, disabled, onChange }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const take = (): void => {
    const number = typed === null ? null : readNumber(typed);
    setTyped(null);
    if (number !== null) onChange(number);
  };
  return (
    <input
      aria-label={`${title}, typed`}
      className="w-[88px] shrink-0 rounded-sheet border border-line bg-paper px-2 py-0.5 text-right outline-offset-0 hover:border-soft"
      value={typed ?? text}
      disabled={disabled}
      onFocus={(event) => {
        // At once, so that the first key already replaces the whole number.
        flushSync(() => setTyped(String(value)));
        event.currentTarget.select();
      }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') {
          setTyped(null);
          requestAnimationFrame(() => (document.activeElement as HTMLElement | null)?.blur());
        }
      }}
    />
  );
}
