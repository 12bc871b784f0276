import type { Finding, ListRow, TreatmentSettings } from '@euphonos/dsp';
import { useState } from 'react';
import { formatNumber, formatTime } from '../../../../components/figures.js';
import { useKeys } from '../../../../shell/use-keys.js';
import { changed } from '../../../../store/listening-slice.js';
import { useAppDispatch } from '../../../../store/store.js';
import { useEffectOf, useWorkbench } from '../../../../workbench/workbench-context.js';
import { useFindings } from '../../../survey/use-survey.js';
import type { PanelProps } from './panel.js';

const AROUND_SECONDS = 0.5;
/** Rows around the chosen one: a long narration has hundreds. */
const SHOWN = 7;

/** A stretch of the recording that is treated or left. */
export interface SpanRow {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly state: 'treat' | 'leave';
}

/** What a list of such stretches is about. */
export interface SpansOf<Row extends SpanRow> {
  /** Name of the list among the settings. */
  readonly list: string;
  readonly one: string;
  readonly many: string;
  /** The rows that a survey offers. */
  readonly found: (findings: readonly Finding[]) => readonly Omit<Row, 'state'>[];
  /** What is said of a row beside its length. */
  readonly words: (row: Row) => string;
  /** Why a row is not lowered although it is not left; null when it is. */
  readonly spared: (row: Row, settings: TreatmentSettings) => string | null;
  /** What an edit of the clips has made of a row, and how it is given back; null when none has. */
  readonly taken?: (row: Row) => { readonly words: string; readonly giveBack: () => void } | null;
  /** What happens to a row that is treated, in a word. */
  readonly treated?: string;
}

/** Stretches one by one: step through, hear, leave one as it is. */
export function SpansPanel<Row extends SpanRow>({
  settings,
  set,
  about,
}: Pick<PanelProps, 'settings' | 'set'> & { readonly about: SpansOf<Row> }) {
  const { view, player, sampleRateHz, places } = useWorkbench();
  const findings = useFindings();
  const effect = useEffectOf(settings.id!);
  const dispatch = useAppDispatch();
  const [at, setAt] = useState(-1);
  const rows = settings[about.list] as unknown as readonly Row[];
  const found = about.found(findings ?? []);
  const counted = (count: number): string => (count === 1 ? `1 ${about.one}` : `${count} ${about.many}`);
  const write = (next: readonly object[]): void => set(about.list, next as unknown as readonly ListRow[]);

  const go = (index: number): void => {
    const row = rows[index];
    if (!row) return;
    setAt(index);
    const [place] = places.ofSeconds(row);
    if (!place) return;
    const { startFrame: start, endFrame: end } = place;
    const around = AROUND_SECONDS * sampleRateHz;
    view.show(start - 3 * around, end + 3 * around);
    dispatch(
      changed({ selection: { startFrame: Math.round(Math.max(0, start)), endFrame: Math.round(end) }, band: null, candidate: null }),
    );
    player.seek(Math.max(0, Math.round(start - around)));
  };
  const step = (by: 1 | -1): void => go(rows.length === 0 ? -1 : (at + by + rows.length) % rows.length);
  const turn = (index: number): void => {
    const given = rows[index] && about.taken?.(rows[index]);
    if (given) given.giveBack();
    else if (rows[index]) write(rows.map((row, i) => (i === index ? { ...row, state: row.state === 'leave' ? 'treat' : 'leave' } : row)));
  };
  useKeys('j', () => step(1));
  useKeys('shift_j', () => step(-1));
  useKeys('x', () => turn(at));

  if (rows.length === 0)
    return (
      <p className="m-0 mb-1 flex items-baseline gap-2 text-[12px]">
        <span className="grow text-soft">
          {findings
            ? found.length === 0
              ? `The survey found no ${about.one} in this recording.`
              : `The survey found ${found.length}.`
            : 'The survey is still listening.'}
        </span>
        {found.length > 0 && (
          <button type="button" className="press py-0!" onClick={() => write(found.map((row) => ({ ...row, state: 'treat' })))}>
            Take them
          </button>
        )}
      </p>
    );
  const first = Math.max(0, Math.min(rows.length - SHOWN, at - 3));
  const timeOf = (row: Row): number => (places.ofSeconds(row)[0]?.startFrame ?? row.startSeconds * sampleRateHz) / sampleRateHz;
  const fate = (row: Row): string =>
    about.taken?.(row)?.words ??
    (places.ofSeconds(row).length === 0
      ? 'cut'
      : row.state === 'leave'
        ? 'left'
        : (about.spared(row, settings) ?? about.treated ?? 'lowered'));
  return (
    <div className="mb-1 text-[12px]" aria-label={`${about.many} found`}>
      <div className="flex items-baseline gap-2 pb-1">
        <span className="grow text-soft">
          {counted(rows.length)}
          {effect && !about.treated ? `, ${effect.events.length} lowered here` : ''}
        </span>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" onClick={() => step(-1)}>
          ‹ <span className="key">⇧J</span>
        </button>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" onClick={() => step(1)}>
          › <span className="key">J</span>
        </button>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" disabled={at < 0} onClick={() => turn(at)}>
          {rows[at] && about.taken?.(rows[at]) ? 'Give it back' : rows[at]?.state === 'leave' ? 'Treat it' : 'Leave it'}{' '}
          <span className="key">X</span>
        </button>
      </div>
      {rows.slice(first, first + SHOWN).map((row, i) => (
        <div
          key={row.startSeconds}
          data-span-row={row.state}
          className={`flex items-center gap-3 border-t border-faint py-0.5 ${first + i === at ? 'font-semibold' : ''}`}
        >
          <button type="button" className="underline decoration-dotted" title="Show it" onClick={() => go(first + i)}>
            {formatTime(timeOf(row), 2)}
          </button>
          <span className="text-soft">
            {formatNumber(row.endSeconds - row.startSeconds, 2)} s{about.words(row)}
          </span>
          <button
            type="button"
            aria-label={`${about.taken?.(row) ? 'Give back' : row.state === 'leave' ? 'Treat' : 'Leave'} the ${about.one} at ${formatTime(timeOf(row), 2)}`}
            className={`ml-auto ${['lowered', about.treated].includes(fate(row)) || about.taken?.(row) ? 'text-removed' : 'text-soft'} hover:text-ink`}
            title={about.taken?.(row) ? 'Give it back' : undefined}
            onClick={() => turn(first + i)}
          >
            {fate(row)}
          </button>
        </div>
      ))}
    </div>
  );
}
