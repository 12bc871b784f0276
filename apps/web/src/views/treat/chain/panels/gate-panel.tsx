import { formatDb, formatNumber } from '../../../../components/figures.js';
import { useEffectOf, useWorkbench } from '../../../../workbench/workbench-context.js';
import type { TouchedWord } from '@euphonos/engine';
import { useState, useSyncExternalStore } from 'react';
import { useShowLoss } from '../../voice-losses.js';
import type { PanelProps } from './panel.js';
import { suggestedThresholds } from './suggested-thresholds.js';

/** What comes in and goes out in the gaps, how often it closes, and thresholds that suit. Also for the expander. */
export function GatePanel({ settings, set }: PanelProps) {
  const { sampleRateHz } = useWorkbench();
  const effect = useEffectOf(settings.id!);
  const workbench = useWorkbench();
  const of = useSyncExternalStore(workbench.subscribe, () => workbench.figuresOf);
  if (!effect || effect.gapsDbfs === null || effect.wordsDbfs === null)
    return (
      <p className="m-0 mb-1 text-[12px] text-soft">
        {settings.bypassed ? 'Gaps and words are measured when it is switched on.' : 'Measuring gaps and words …'}
      </p>
    );
  const { closeDb, openDb } = suggestedThresholds(effect.gapsDbfs, effect.wordsDbfs);
  const expands = settings.kind === 'expander';
  const closedSeconds = effect.events.reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0) / sampleRateHz;
  const take = (): void => {
    if (expands) return set('thresholdDb', openDb);
    // In the order in which neither takes the other along.
    const thresholds = [
      ['openDb', openDb],
      ['closeDb', closeDb],
    ] as const;
    const order = openDb >= (settings['closeDb'] as number) ? thresholds : [...thresholds].reverse();
    for (const [name, value] of order) set(name, value);
  };
  return (
    <div className="mb-1 text-[12px]" data-gate-panel>
      <p className="m-0" title={`Measured in: ${of}`}>
        Gaps <b>{formatDb(effect.gapsDbfs, 'dBFS')}</b>
        {effect.gapsDb !== null && (
          <>
            {' '}
            → <b className="text-result">{formatDb(effect.gapsDbfs + effect.gapsDb, 'dBFS')}</b>
          </>
        )}{' '}
        · words {formatDb(effect.wordsDbfs, 'dBFS')}
      </p>
      <p className="m-0 flex items-baseline gap-2">
        <span className="grow text-soft">
          {expands
            ? ''
            : effect.events.length === 0
              ? 'It never closes here.'
              : `Closed ${effect.events.length === 1 ? 'once' : `${effect.events.length} times`}, ${formatNumber(closedSeconds, 1)} s in all.`}
        </span>
        <button
          type="button"
          className="press shrink-0 py-0!"
          title="Just above what is left in the gaps, and clear of the words"
          onClick={take}
        >
          {expands ? `Begin at ${formatNumber(openDb, 1)}` : `Close at ${formatNumber(closeDb, 1)}, open at ${formatNumber(openDb, 1)}`}
        </button>
      </p>
      <Touched words={effect.touched} />
    </div>
  );
}

/** Words that lose a beginning or an end, one after the other. */
function Touched({ words }: { readonly words: readonly TouchedWord[] }) {
  const show = useShowLoss();
  const [at, setAt] = useState(-1);
  if (words.length === 0) return <p className="m-0 text-soft">No word loses its beginning or end.</p>;
  const next = (): void => {
    const index = (at + 1) % words.length;
    setAt(index);
    show(words[index]!);
  };
  return (
    <p className="m-0 flex items-baseline gap-2 text-removed">
      <span className="grow">
        {words.length === 1 ? 'One word loses' : `${words.length} words lose`} a beginning or an end
        {at >= 0 && words[at] ? `: by ${formatNumber(words[at].loweredDb, 0)} dB here` : ''}.
      </span>
      <button type="button" className="press shrink-0 py-0! text-ink" onClick={next}>
        Show {words.length > 1 ? 'the next' : 'it'}
      </button>
    </p>
  );
}
