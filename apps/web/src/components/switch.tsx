import { Switch as Radix } from 'radix-ui';

interface Props {
  readonly on: boolean;
  readonly label: string;
  readonly onChange: (on: boolean) => void;
}

/** On or off: a square in a frame, dark on the right when on. */
export function Switch({ on, label, onChange }: Props) {
  return (
    <Radix.Root
      checked={on}
      onCheckedChange={onChange}
      aria-label={label}
      className="h-4 w-[30px] shrink-0 rounded-sheet border border-ink bg-sheet p-px data-[state=unchecked]:border-soft"
    >
      <Radix.Thumb className="block size-3 rounded-[2px] bg-soft transition-transform data-[state=checked]:translate-x-[13.5px] data-[state=checked]:bg-ink" />
    </Radix.Root>
  );
}
