import type { SpanSeconds } from '@euphonos/dsp';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { Overview } from '../treat/overview.js';
import { StripsFrame } from '../treat/strips.js';
import { Strip } from '../treat/strip.js';
import { TimeAxis } from '../treat/time-axis.js';
import { useView } from '../treat/use-view.js';

/** The recording as it came, with marks where the finding at hand is. */
export function SurveyStrip({ spans }: { readonly spans: readonly SpanSeconds[] }) {
  return (
    <div className="flex h-[214px] shrink-0 flex-col gap-1.5">
      <Overview />
      <StripsFrame>
        <Strip lane="source" />
        <Marks spans={spans} />
      </StripsFrame>
      <TimeAxis />
    </div>
  );
}

function Marks({ spans }: { readonly spans: readonly SpanSeconds[] }) {
  const { view, sampleRateHz } = useWorkbench();
  useView(view);
  const shown = spans
    .filter((span) => span.endSeconds * sampleRateHz > view.startFrame && span.startSeconds * sampleRateHz < view.endFrame)
    .slice(0, 400);
  return (
    <div aria-hidden className="pointer-events-none absolute inset-0 overflow-hidden" data-marks={shown.length}>
      {shown.map(({ startSeconds, endSeconds }, i) => {
        const left = Math.max(-50, view.pxAt(startSeconds * sampleRateHz));
        const width = Math.max(2, Math.min(view.widthPx + 50, view.pxAt(endSeconds * sampleRateHz)) - left);
        return <i key={i} className="absolute inset-y-0 border-t-[5px] border-removed bg-removed/15" style={{ left, width }} />;
      })}
    </div>
  );
}
