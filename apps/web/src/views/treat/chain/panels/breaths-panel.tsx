import { asBreaths, breathRow, type Breath, type ListRow } from '@euphonos/dsp';
import { useState } from 'react';
import { formatNumber, formatTime } from '../../../../components/figures.js';
import { useKeys } from '../../../../shell/use-keys.js';
import { changed } from '../../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../../store/store.js';
import { useEffectOf, useWorkbench } from '../../../../workbench/workbench-context.js';
import { useSurvey } from '../../../survey/use-survey.js';
import type { PanelProps } from './panel.js';

const AROUND_SECONDS = 0.5;
/** Rows around the chosen one: a long narration has hundreds. */
const SHOWN = 7;

/** The breaths one by one: step through, hear, leave one as it is. */
export function BreathsPanel({ settings, set }: PanelProps) {
  const { view, player, sampleRateHz } = useWorkbench();
  const recordingId = useApp(({ session }) => session!.recording.id);
  const { view: survey } = useSurvey(recordingId);
  const effect = useEffectOf(settings.id!);
  const dispatch = useAppDispatch();
  const [at, setAt] = useState(-1);
  const breaths = asBreaths(settings['breaths'] as readonly ListRow[]);
  const least = settings['leastPercent'] as number;
  const found = survey?.survey?.findings.flatMap((finding) => (finding.kind === 'breaths' ? finding.spans : [])) ?? [];

  const go = (index: number): void => {
    const breath = breaths[index];
    if (!breath) return;
    setAt(index);
    const [start, end] = [breath.startSeconds * sampleRateHz, breath.endSeconds * sampleRateHz];
    const around = AROUND_SECONDS * sampleRateHz;
    view.show(start - 3 * around, end + 3 * around);
    dispatch(changed({ selection: { startFrame: Math.round(Math.max(0, start)), endFrame: Math.round(end) }, band: null, candidate: null }));
    player.seek(Math.max(0, Math.round(start - around)));
  };
  const step = (by: 1 | -1): void => go(breaths.length === 0 ? -1 : (at + by + breaths.length) % breaths.length);
  const turn = (index: number): void => {
    if (breaths[index]) set('breaths', breaths.map((breath, i): ListRow => ({ ...breath, state: i === index ? (breath.state === 'leave' ? 'treat' : 'leave') : breath.state })));
  };
  useKeys('j', () => step(1));
  useKeys('shift_j', () => step(-1));
  useKeys('x', () => turn(at));

  if (breaths.length === 0)
    return (
      <p className="m-0 mb-1 flex items-baseline gap-2 text-[12px]">
        <span className="grow text-soft">{survey?.survey ? (found.length === 0 ? 'The survey found no breath in this recording.' : `The survey found ${found.length}.`) : 'The survey is still listening.'}</span>
        {found.length > 0 && <button type="button" className="press py-0!" onClick={() => set('breaths', found.map((span): ListRow => ({ ...breathRow(span), state: 'treat' })))}>Take them</button>}
      </p>
    );
  const first = Math.max(0, Math.min(breaths.length - SHOWN, at - 3));
  const words = ({ state, certaintyPercent }: Breath): string => (state === 'leave' ? 'left' : certaintyPercent < least ? 'not sure enough' : 'lowered');
  return (
    <div className="mb-1 text-[12px]" aria-label="Breaths found">
      <div className="flex items-baseline gap-2 pb-1">
        <span className="grow text-soft">{breaths.length === 1 ? '1 breath' : `${breaths.length} breaths`}{effect ? `, ${effect.events.length} lowered here` : ''}</span>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" onClick={() => step(-1)}>‹ <span className="key">⇧J</span></button>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" onClick={() => step(1)}>› <span className="key">J</span></button>
        <button type="button" className="press shrink-0 px-1.5! py-0! whitespace-nowrap" disabled={at < 0} onClick={() => turn(at)}>{breaths[at]?.state === 'leave' ? 'Lower it' : 'Leave it'} <span className="key">X</span></button>
      </div>
      {breaths.slice(first, first + SHOWN).map((breath, i) => (
        <div key={breath.startSeconds} data-breath={breath.state} className={`flex items-center gap-3 border-t border-faint py-0.5 ${first + i === at ? 'font-semibold' : ''}`}>
          <button type="button" className="underline decoration-dotted" title="Show it" onClick={() => go(first + i)}>{formatTime(breath.startSeconds, 2)}</button>
          <span className="text-soft">{formatNumber(breath.endSeconds - breath.startSeconds, 2)} s · {breath.certaintyPercent} % sure</span>
          <button type="button" aria-label={`${breath.state === 'leave' ? 'Lower' : 'Leave'} the breath at ${formatTime(breath.startSeconds, 2)}`} className={`ml-auto ${words(breath) === 'lowered' ? 'text-removed' : 'text-soft'} hover:text-ink`} onClick={() => turn(first + i)}>{words(breath)}</button>
        </div>
      ))}
    </div>
  );
}
