import { useState } from 'react';
import type { TreatmentEvent } from '@euphonos/dsp';
import { formatNumber, formatTime } from '../../../../components/figures.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import { useShowLoss } from '../../voice-losses.js';

/** Places where something was held down, one after the other, with the longest of them told. */
export function Places({ events }: { readonly events: readonly TreatmentEvent[] }) {
  const { sampleRateHz } = useWorkbench();
  const show = useShowLoss();
  const [at, setAt] = useState(-1);
  if (events.length === 0) return <p className="m-0 text-soft">Nothing reaches the ceiling.</p>;
  const next = (): void => {
    const index = (at + 1) % events.length;
    setAt(index);
    show(events[index]!);
  };
  const seconds = events.reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0) / sampleRateHz;
  const now = events[at];
  return (
    <p className="m-0 flex items-baseline gap-2">
      <span className="grow">
        {events.length === 1 ? '1 place' : `${events.length} places`}, {formatNumber(seconds, 2)} s in all
        {now ? `; at ${formatTime(now.startFrame / sampleRateHz, 2)} by ${formatNumber(now.amountDb, 1)} dB` : ''}
      </span>
      <button type="button" className="press shrink-0 py-0!" onClick={next}>
        Show {events.length > 1 ? 'the next' : 'it'}
      </button>
    </p>
  );
}
