import type { ReactNode } from 'react';
import { formatNumber, setMinus } from '../../components/figures.js';
import { placeOf } from './scale.js';
import type { TableLine } from './table-lines.js';

interface Props {
  readonly name: ReactNode;
  readonly label: string;
  readonly line: TableLine;
  readonly stale: boolean;
  readonly chosen: boolean;
  readonly onChoose: () => void;
  /** Band that the line is to stand in, LUFS. */
  readonly band: readonly [number, number] | null;
  readonly ceilingDbtp: number;
  readonly small?: boolean;
}

const figure = (value: number | null | undefined, digits = 1): string =>
  value === null || value === undefined ? '–' : formatNumber(value, digits);

const signed = (value: number | null): string => (value === null ? '–' : `${value > 0.05 ? '+' : ''}${figure(value)}`);
/** People that follow each other are even within this. Common practice, no source. */
const EVEN_LU = 1;

/** One line of the balance: where it stood (graphite dot), where it stands (teal mark, its range as width), and its figures. */
export function LevelRow({ name, label, line, stale, chosen, onChoose, band, ceilingDbtp, small = false }: Props) {
  const { line: measured, offLu, besideLu, talkLufs } = line;
  const before = measured?.before;
  const after = measured?.after;
  const words = after?.lufs == null ? 'not measured' : `${figure(before?.lufs)} to ${figure(after.lufs)} LUFS`;
  return (
    <tr
      data-level={label}
      className={`border-t border-faint ${chosen ? 'bg-faint/60' : ''} ${stale ? 'opacity-60' : ''}`}
      onClick={onChoose}
    >
      <th scope="row" className={`truncate py-0 pr-2 text-left font-normal ${small ? 'pl-7 text-[12px] text-soft' : ''}`}>
        <label className="flex cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            aria-label={`Choose ${label}`}
            className="accent-(--ink)"
            checked={chosen}
            onChange={onChoose}
            onClick={(event) => event.stopPropagation()}
          />
          {name}
        </label>
      </th>
      <td className="px-3 py-0">
        <div className={`relative ${small ? 'h-[20px]' : 'h-[34px]'}`} role="img" aria-label={setMinus(`${label}: ${words}`)}>
          {band && (
            <i
              aria-hidden
              className="absolute inset-y-0 bg-practice/60"
              style={{ left: `${placeOf(band[0])}%`, width: `${placeOf(band[1]) - placeOf(band[0])}%` }}
            />
          )}
          {before?.lufs != null && <Mark lufs={before.lufs} rangeLu={before.rangeLu} lane="source" small={small} />}
          {after?.lufs != null && <Mark lufs={after.lufs} rangeLu={after.rangeLu} lane="result" small={small} />}
        </div>
      </td>
      <Figure>{figure(before?.lufs)}</Figure>
      <Figure>
        <b className="font-semibold text-result">{figure(after?.lufs)}</b>
      </Figure>
      <Figure>
        <span className={offLu === null || offLu === 0 ? 'text-soft' : 'text-removed'}>
          {offLu === null ? '–' : offLu === 0 ? 'there' : signed(offLu)}
        </span>
      </Figure>
      <Figure>
        <span className={besideLu === null || Math.abs(besideLu) <= EVEN_LU ? 'text-soft' : 'text-removed'}>{signed(besideLu)}</span>
      </Figure>
      <Figure>{figure(talkLufs)}</Figure>
      <Figure>{figure(after?.rangeLu)}</Figure>
      <Figure>
        <span className={(after?.truePeakDbtp ?? -99) > ceilingDbtp ? 'text-removed' : ''}>{figure(after?.truePeakDbtp)}</span>
      </Figure>
      <Figure>{figure(after?.floorDbfs, 0)}</Figure>
    </tr>
  );
}

const Figure = ({ children }: { readonly children: ReactNode }) => <td className="px-1 text-right tabular-nums">{children}</td>;

/** A loudness with its range around it, the greater part below: the range is from the 10th to the 95th percentile (EBU Tech 3342). */
function Mark({
  lufs,
  rangeLu,
  lane,
  small,
}: {
  readonly lufs: number;
  readonly rangeLu: number | null;
  readonly lane: 'source' | 'result';
  readonly small: boolean;
}) {
  const around = rangeLu ?? 0;
  const [from, to] = [placeOf(lufs - 0.6 * around), placeOf(lufs + 0.4 * around)];
  const source = lane === 'source';
  const top = source ? (small ? 'top-[4px]' : 'top-[8px]') : small ? 'top-[11px]' : 'top-[20px]';
  return (
    <>
      <i
        aria-hidden
        className={`absolute h-[4px] -translate-y-1/2 ${top} ${source ? 'bg-source/35' : 'bg-result/45'}`}
        style={{ left: `${from}%`, width: `${Math.max(0.2, to - from)}%` }}
      />
      <i
        aria-hidden
        className={`absolute -translate-x-1/2 -translate-y-1/2 ${top} ${source ? 'size-[6px] rounded-full bg-source' : `${small ? 'h-[9px]' : 'h-[14px]'} w-[4px] bg-result`}`}
        style={{ left: `${placeOf(lufs)}%` }}
      />
    </>
  );
}
