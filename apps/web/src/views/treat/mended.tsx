import { parametersOf, takenPauses } from '@euphonos/dsp';
import { activeTrack } from '../../store/session-slice.js';
import { useApp } from '../../store/store.js';
import { useEffectOf, useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

const MOST = 500;

/** Where the open treatment acts on the strips: what it mended one by one, its spots, its band in time. */
export function Mended() {
  const { view, places } = useWorkbench();
  const open = useApp(
    ({ session, listening }) => activeTrack(session)?.chain.treatments.find(({ id }) => id === listening.openTreatmentId) ?? null,
  );
  const effect = useEffectOf(open?.id ?? '');
  useView(view);
  if (!open || open.bypassed) return null;
  const pauses = open.kind === 'pauses' && open['way'] !== 'lower' ? takenPauses(parametersOf(open) as never) : [];
  const spots = open.kind === 'spots' ? (open['spots'] as readonly { startSeconds: number; endSeconds: number }[]) : [];
  const spans = [
    ...(effect?.events ?? []).map(({ startFrame, endFrame }) => [startFrame, endFrame] as const),
    ...[...spots, ...pauses].flatMap((spot) => places.ofSeconds(spot)).map(({ startFrame, endFrame }) => [startFrame, endFrame] as const),
  ].filter(([from, to]) => to > view.startFrame && from < view.endFrame);
  return (
    <div aria-hidden data-mended={spans.length} className="pointer-events-none absolute inset-0 overflow-hidden">
      {spans.slice(0, MOST).map(([from, to], i) => {
        const left = Math.max(-20, view.pxAt(from));
        return (
          <i
            key={i}
            className="absolute inset-y-0 border-b-4 border-removed bg-removed/10"
            style={{ left, width: Math.max(2, Math.min(view.widthPx + 20, view.pxAt(to)) - left) }}
          />
        );
      })}
    </div>
  );
}
