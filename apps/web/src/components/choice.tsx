import { ToggleGroup } from 'radix-ui';

interface Props<Value extends string> {
  readonly label: string;
  readonly value: Value;
  readonly choices: readonly { readonly value: Value; readonly title: string; readonly hint?: string }[];
  readonly onChange: (value: Value) => void;
}

/** One of a few words; the chosen one is set in bold. */
export function Choice<Value extends string>({ label, value, choices, onChange }: Props<Value>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as Value)}
      className="flex flex-wrap items-baseline gap-x-2"
    >
      {choices.map((choice) => (
        <ToggleGroup.Item
          key={choice.value}
          value={choice.value}
          title={choice.hint}
          className="rounded-sheet px-0.5 whitespace-nowrap text-soft hover:text-ink data-[state=on]:font-semibold data-[state=on]:text-ink"
        >
          {choice.title}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
