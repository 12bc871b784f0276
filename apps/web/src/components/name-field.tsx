interface Props {
  readonly name: string;
  /** What it is the name of; else its name says so. */
  readonly label?: string;
  readonly onRename: (name: string) => void;
  readonly className?: string;
  /** An empty name is one, too. */
  readonly mayBeEmpty?: boolean;
  readonly fresh?: boolean;
}

/** A name that can be changed where it stands: taken over when the field is left or Enter pressed, left alone on Escape. */
export function NameField({ name, label = `Name of ${name}`, onRename, className = '', mayBeEmpty = false, fresh = false }: Props) {
  return (
    <input
      key={name}
      autoFocus={fresh}
      aria-label={label}
      maxLength={120}
      defaultValue={name}
      className={`min-w-0 grow rounded-sheet border border-transparent bg-transparent px-1 font-semibold hover:border-line focus:border-line ${className}`}
      onFocus={({ target }) => fresh && target.select()}
      onBlur={({ target }) => {
        const next = target.value.trim();
        if (next === name) return;
        if (next !== '' || mayBeEmpty) onRename(next);
        else target.value = name;
      }}
      onKeyDown={({ key, currentTarget }) => {
        if (key === 'Escape') currentTarget.value = name;
        if (key === 'Enter' || key === 'Escape') currentTarget.blur();
      }}
    />
  );
}
