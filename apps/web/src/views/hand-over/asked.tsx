import { Switch } from '../../components/switch.js';

interface Props {
  readonly title: string;
  readonly on: boolean;
  readonly onChange: (on: boolean) => void;
}

/** A requirement that is asked for, or not. */
export function Asked({ title, on, onChange }: Props) {
  return (
    <label className="mt-3 flex items-center justify-between border-t border-line pt-2">
      <span className="font-semibold">{title}</span>
      <Switch label={title} on={on} onChange={onChange} />
    </label>
  );
}
