import { formatBytes } from '@euphonos/engine';

interface Props {
  /** Whose room it is. */
  readonly of: string;
  readonly usedBytes: number;
  readonly mostBytes: number | null;
  readonly onChange: (mostBytes: number | null) => void;
}

const GB = 1e9;

/** How much is held of how much: an empty field is as much as there is. */
export function RoomField({ of, usedBytes, mostBytes, onChange }: Props) {
  const full = mostBytes !== null && usedBytes > 0.9 * mostBytes;
  return (
    <span className="flex shrink-0 items-baseline gap-1 text-[13px] text-soft">
      <span className={full ? 'text-removed' : 'text-ink'}>{formatBytes(usedBytes)}</span> of
      <input
        key={mostBytes}
        aria-label={`Room of ${of}, GB`}
        title="GB; empty: as much as there is"
        inputMode="decimal"
        placeholder="all"
        defaultValue={mostBytes === null ? '' : String(mostBytes / GB)}
        className="w-[52px] rounded-sheet border border-line bg-sheet px-1 py-0.5 text-right text-ink"
        onBlur={({ target }) => {
          const text = target.value.trim().replace(',', '.');
          const next = text === '' ? null : Math.round(Number(text) * GB);
          if (next !== null && !(next >= 0)) target.value = mostBytes === null ? '' : String(mostBytes / GB);
          else if (next !== mostBytes) onChange(next);
        }}
        onKeyDown={({ key, currentTarget }) => key === 'Enter' && currentTarget.blur()}
      />
      GB
    </span>
  );
}
