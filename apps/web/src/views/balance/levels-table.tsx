import type { Spoken } from '@euphonos/dsp';
import { talkLufs, type Track } from '@euphonos/engine';
import { noticeName } from './names.js';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { formatNumber, formatTime } from '../../components/figures.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { ALONE_LU, givesWay } from '../under/bed-levels.js';
import { LevelRow } from './level-row.js';
import { placeOf, TICKS } from './scale.js';
import { nextSorting, sorted, tableLines, type Column, type Sorting } from './table-lines.js';
import type { BalanceTrack } from './use-balance.js';

interface Props {
  readonly tracks: readonly BalanceTrack[];
  /** Where somebody speaks, by the track's id. */
  readonly talk: ReadonlyMap<string, readonly Spoken[]>;
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: (id: string) => void;
  /** Where speech is to stand and how near, LUFS and LU; null for nowhere. */
  readonly target: { readonly lufs: number; readonly toleranceLu: number } | null;
  readonly underLu: number;
  readonly ceilingDbtp: number;
}

const COLUMNS: readonly (readonly [Column, string])[] = [
  ['before', 'Loudness as it was recorded, LUFS'],
  ['after', 'Loudness in the mix, LUFS'],
  ['off', 'How far it is from its band, LU'],
  ['beside', 'How much louder than the one before it in time, LU'],
  ['talk', 'Loudness of the words alone, without the gaps, LUFS'],
  ['range', 'Loudness range (EBU Tech 3342), LU'],
  ['dBTP', 'True peak'],
  ['floor', 'Noise floor, dBFS'],
];

/** All tracks, and their clips, on one loudness ruler with the target's band. */
export function LevelsTable({ tracks, talk, chosen, onChoose, target, underLu, ceilingDbtp }: Props) {
  const { sampleRateHz } = useWorkbench();
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const toggle = (id: string): void =>
    setOpen((before) => new Set(before.has(id) ? [...before].filter((other) => other !== id) : [...before, id]));
  const [sorting, setSorting] = useState<Sorting | null>(null);
  const bandOf = (track: Track): readonly [number, number] | null => {
    if (!target) return null;
    const under = track.role === 'bed' ? (givesWay(track) ? Math.min(ALONE_LU, underLu) : underLu) : 0;
    const middle = target.lufs - under;
    return [middle - target.toleranceLu, middle + target.toleranceLu];
  };
  const talkOf = (track: Track, startFrame: number, endFrame: number): number | null =>
    talkLufs(talk.get(track.id) ?? [], startFrame / sampleRateHz, endFrame / sampleRateHz);
  const lines = tableLines(tracks, { bandOf, talkOf });
  const order = sorted(
    lines.map(({ line }) => line),
    sorting,
  ).map(({ id }) => lines.find(({ line }) => line.id === id)!);
  return (
    <table aria-label="Levels" className="w-full table-fixed border-collapse text-[13px]">
      <colgroup>
        <col className="w-[150px]" />
        <col />
        {COLUMNS.map(([name]) => (
          <col key={name} className="w-[47px]" />
        ))}
      </colgroup>
      <thead className="text-[12px] text-soft">
        <tr>
          <th />
          <th className="px-3 font-normal">
            <div className="relative h-[18px]">
              {TICKS.map((tick) => (
                <span key={tick} className="absolute -translate-x-1/2" style={{ left: `${placeOf(tick)}%` }}>
                  {formatNumber(tick, 0)}
                </span>
              ))}
            </div>
          </th>
          {COLUMNS.map(([name, hint]) => {
            const way = sorting?.column === name ? sorting.way : null;
            return (
              <th
                key={name}
                title={hint}
                className="px-1 text-right font-normal whitespace-nowrap"
                aria-sort={way === null ? 'none' : way === 'down' ? 'descending' : 'ascending'}
              >
                <button
                  type="button"
                  className={`hover:text-ink ${way ? 'font-semibold text-ink' : ''}`}
                  onClick={() => setSorting(nextSorting(sorting, name))}
                >
                  {way && (way === 'down' ? '↓' : '↑')}
                  {name}
                </button>
              </th>
            );
          })}
        </tr>
      </thead>
      <tbody>
        {order.flatMap(({ of: { track, stale }, line, clips }) => [
          <LevelRow
            key={track.id}
            label={track.name}
            line={line}
            stale={stale}
            chosen={chosen.has(`${track.id}/`)}
            onChoose={() => onChoose(`${track.id}/`)}
            band={bandOf(track)}
            ceilingDbtp={ceilingDbtp}
            name={
              <>
                <span className={`truncate ${track.muted ? 'text-soft line-through' : ''}`} title={noticeName(track)}>
                  {track.name}
                </span>
                {clips.length > 1 && (
                  <button
                    type="button"
                    aria-expanded={open.has(track.id)}
                    aria-label={`Clips of ${track.name}`}
                    className="ml-auto flex items-center text-[12px] text-soft hover:text-ink"
                    onClick={(event) => {
                      event.preventDefault();
                      event.stopPropagation();
                      toggle(track.id);
                    }}
                  >
                    {open.has(track.id) ? <ChevronDown size={13} /> : <ChevronRight size={13} />} {clips.length}
                  </button>
                )}
              </>
            }
          />,
          ...(open.has(track.id)
            ? sorted(clips, sorting).map((clip) => {
                const at = formatTime(clip.startFrame / sampleRateHz, 1);
                return (
                  <LevelRow
                    key={clip.id}
                    small
                    label={`${track.name} at ${at}`}
                    name={at}
                    line={clip}
                    stale={stale}
                    chosen={chosen.has(clip.id)}
                    onChoose={() => onChoose(clip.id)}
                    band={bandOf(track)}
                    ceilingDbtp={ceilingDbtp}
                  />
                );
              })
            : []),
        ])}
      </tbody>
    </table>
  );
}
