import { match, raised, type BalanceLine, type MatchWish } from '@euphonos/engine';
import { useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { Choice } from '../../components/choice.js';
import { formatNumber, setMinus } from '../../components/figures.js';
import { ValueBox } from '../../components/value-box.js';
import { useKeys } from '../../shell/use-keys.js';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';
import { ALONE_LU } from '../under/bed-levels.js';

/** Peaks that are asked for. Common practice, no source. */
const PEAKS_DBFS = [-3, -6, -8] as const;
const LEAST_PEAK_DBFS = -60;

interface Props {
  /** What is matched: the chosen lines, or all tracks. */
  readonly lines: readonly (BalanceLine & { readonly bed: boolean; readonly givesWay: boolean })[];
  readonly chosen: number;
  /** How many tracks are still measured. */
  readonly waiting: number;
  readonly targetLufs: number;
  readonly ceilingDbtp: number;
  readonly underLu: number;
  readonly onUnder: (lu: number) => void;
  /** Loudness of the track at work, as it is in the mix. */
  readonly reference: { readonly name: string; readonly lufs: number } | null;
  /** What else is done to them. */
  readonly children?: ReactNode;
}

type Wish = 'target' | 'reference' | 'loudest' | 'peak';

/** Brings lines to one loudness, or their peaks to one level: one step that can be undone. */
export function MatchBar({ lines, chosen, waiting, targetLufs, ceilingDbtp, underLu, onUnder, reference, children }: Props) {
  const dispatch = useAppDispatch();
  const [wish, setWish] = useState<Wish>('target');
  const [peakDbfs, setPeakDbfs] = useState<number>(PEAKS_DBFS[0]);
  const wished = (): MatchWish => {
    if (wish === 'peak') return { kind: 'peak', dbfs: peakDbfs };
    if (wish === 'loudest') return { kind: 'loudest', ceilingDbtp };
    return { kind: 'loudness', lufs: wish === 'reference' && reference ? reference.lufs : targetLufs };
  };
  const take = (): void => {
    // Matched would be what is measured; the others would be left where they are.
    if (waiting > 0)
      return void toast(`${waiting === 1 ? 'One track is' : `${waiting} tracks are`} still measured; a moment.`, { id: 'match' });
    const what = wished();
    // A bed is to stand so far under speech, and one that gives way to it nearer where nobody speaks; its peaks are its own.
    const even = lines.map((line) =>
      line.bed && what.kind !== 'peak'
        ? { ...line, after: raised(line.after, line.givesWay ? Math.min(ALONE_LU, underLu) : underLu) }
        : line,
    );
    const { levels, lufs, unmeasured, short } = match(even, what);
    if (levels.length === 0) return void toast('Nothing is measured yet that could be matched.', { id: 'match' });
    const words = what.kind === 'peak' ? `peaks at ${peakDbfs} dBFS` : `${formatNumber(lufs!, 1)} LUFS`;
    dispatch(
      edited({ type: 'set-levels', title: `Match ${levels.length === 1 ? 'a level' : `${levels.length} levels`}: ${words}`, levels }),
    );
    const left = [
      ...(unmeasured > 0 ? [`${unmeasured} too short or silent`] : []),
      ...(short > 0 ? [`${short} would need more than the range of levels`] : []),
    ];
    toast(
      setMinus(
        `${levels.length === 1 ? '1 level' : `${levels.length} levels`} set: ${words}${left.length > 0 ? `; ${left.join(', ')}` : ''}.`,
      ),
      {
        id: 'match',
      },
    );
  };
  useKeys('m', take);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 py-2 text-[13px]">
      <button type="button" className="press-strong py-0.5!" onClick={take}>
        Match {chosen === 0 ? 'all' : chosen === 1 ? 'the chosen one' : `${chosen} chosen`} <span className="key">M</span>
      </button>
      <Choice
        label="Match to"
        value={wish}
        onChange={setWish}
        choices={[
          { value: 'target', title: setMinus(`${targetLufs} LUFS`), hint: 'Loudness of the delivery’s target' },
          ...(reference
            ? [
                {
                  value: 'reference' as const,
                  title: `as ${reference.name}`,
                  hint: setMinus(`The track at work: ${formatNumber(reference.lufs, 1)} LUFS`),
                },
              ]
            : []),
          { value: 'loudest', title: 'loudest', hint: setMinus(`As loud as all of them can be under ${ceilingDbtp} dBTP`) },
          { value: 'peak', title: 'peaks', hint: 'The highest sample of each at a level, each by itself' },
        ]}
      />
      {wish === 'peak' && (
        <>
          <Choice
            label="Peaks at"
            value={String(peakDbfs)}
            onChange={(value) => setPeakDbfs(Number(value))}
            choices={PEAKS_DBFS.map((dbfs) => ({ value: String(dbfs), title: setMinus(`${dbfs}`) }))}
          />
          <ValueBox
            title="Peaks at"
            text={setMinus(`${peakDbfs} dBFS`)}
            value={peakDbfs}
            disabled={false}
            onChange={(dbfs) => setPeakDbfs(Math.max(LEAST_PEAK_DBFS, Math.min(0, dbfs)))}
          />
        </>
      )}
      {children}
      {lines.some(({ bed }) => bed) && wish !== 'peak' && (
        <span className="flex items-center gap-2">
          <span className="text-soft">a bed under speech by</span>
          <ValueBox
            title="Bed under speech"
            text={`${underLu} LU`}
            value={underLu}
            disabled={false}
            onChange={(lu) => onUnder(Math.max(0, Math.min(40, lu)))}
          />
        </span>
      )}
    </div>
  );
}
