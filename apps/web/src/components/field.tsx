import { useId } from 'react';

interface Props {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly type?: 'text' | 'email' | 'password';
  readonly autoComplete?: string;
  readonly inputMode?: 'numeric';
  readonly autoFocus?: boolean;
  readonly readOnly?: boolean;
  readonly maxLength?: number;
  /** In a word or two what it takes. */
  readonly hint?: string;
}

/** A line of text with its name above it. */
export function Field({ label, value, onChange, type = 'text', hint, ...rest }: Props) {
  const id = useId();
  return (
    <div className="flex flex-col gap-0.5">
      <label htmlFor={id} className="text-[12px] text-soft">
        {label}
      </label>
      <input
        id={id}
        type={type}
        value={value}
        aria-describedby={hint ? `${id}-hint` : undefined}
        onChange={({ target }) => onChange(target.value)}
        className="rounded-sheet border border-line bg-sheet px-2 py-1.5 read-only:bg-transparent read-only:text-soft"
        {...rest}
      />
      {hint && (
        <span id={`${id}-hint`} className="text-[12px] text-soft">
          {hint}
        </span>
      )}
    </div>
  );
}
