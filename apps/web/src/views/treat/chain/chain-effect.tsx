import { useSyncExternalStore } from 'react';
import { formatDb, formatNumber } from '../../../components/figures.js';
import { useFigures, useWorkbench } from '../../../workbench/workbench-context.js';

/** What the chain as a whole does to the loop or the recording: level of the gaps and loudness, before and after. */
export function ChainEffect() {
  const figures = useFigures();
  const workbench = useWorkbench();
  const of = useSyncExternalStore(workbench.subscribe, () => workbench.figuresOf);
  const before = figures?.source;
  const after = figures?.result;
  return (
    <div className="grid grid-cols-2 gap-2 border-t border-line px-4 py-3" aria-label="What the chain does">
      <Box title={`Gap level · ${of}`} before={before?.noiseFloorDbfs} after={after?.noiseFloorDbfs} unit="dBFS" name="gap" />
      <Box title={`Loudness · ${of}`} before={before?.integratedLufs} after={after?.integratedLufs} unit="LUFS" name="loudness" />
    </div>
  );
}

interface BoxProps {
  readonly title: string;
  readonly before: number | null | undefined;
  readonly after: number | null | undefined;
  readonly unit: string;
  readonly name: string;
}

function Box({ title, before, after, unit, name }: BoxProps) {
  const change = before != null && after != null ? after - before : null;
  return (
    <div className="rounded-sheet border border-line px-2.5 py-1.5">
      <div className="text-[12px] text-soft">{title}</div>
      <div className="text-[19px] font-semibold" data-effect={name}>
        {change === null ? '–' : `${change > 0.05 ? '+' : ''}${formatNumber(change, 1)} dB`}
      </div>
      <div className="text-[12px] text-soft">
        {before == null ? '–' : formatNumber(before, 1)} → <span className="text-result">{formatDb(after, unit)}</span>
      </div>
    </div>
  );
}
