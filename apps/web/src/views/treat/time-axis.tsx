import { formatTime } from '../../components/figures.js';
import { timeTicks } from '../../drawing/time-ticks.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

/** The times under the strips. */
export function TimeAxis() {
  const { view, sampleRateHz } = useWorkbench();
  useView(view);
  const { seconds, digits } = timeTicks(view.startFrame / sampleRateHz, view.endFrame / sampleRateHz, view.widthPx);
  return (
    <div aria-hidden className="relative -mt-1 h-[15px] shrink-0 overflow-hidden text-[11px] text-soft">
      {seconds.map((tick) => (
        <span
          key={tick}
          className="absolute top-0 border-l border-line pl-1 leading-[14px]"
          style={{ left: view.pxAt(tick * sampleRateHz) }}
        >
          {formatTime(tick, digits)}
        </span>
      ))}
    </div>
  );
}
