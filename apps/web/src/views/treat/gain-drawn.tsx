import { formatNumber, setMinus } from '../../components/figures.js';
import { useApp } from '../../store/store.js';
import { useEffectOf, useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

/** The strip's height stands for these decibels; what is lower stays at the bottom. */
const TOP_DB = 12;
const BOTTOM_DB = -36;
const STEP_PX = 2;

/** On the result strip: what the open treatment does to the level, where that is measured. */
export function GainDrawn() {
  const { view } = useWorkbench();
  const id = useApp(({ listening }) => listening.openTreatmentId);
  const gain = useEffectOf(id ?? '')?.gain ?? null;
  useView(view);
  if (!gain || gain.db.length === 0) return null;
  const { startFrame, stepFrames, db } = gain;
  // Of the steps beneath a pixel the one that moves most.
  const most = (from: number, to: number): number => {
    let far = NaN;
    for (let i = Math.max(0, Math.floor((from - startFrame) / stepFrames)); i < Math.min(db.length, (to - startFrame) / stepFrames); i++)
      if (!Number.isNaN(db[i]!) && !(Math.abs(db[i]!) <= Math.abs(far))) far = db[i]!;
    return far;
  };
  const y = (gainDb: number): number => (100 * (TOP_DB - Math.max(BOTTOM_DB, Math.min(TOP_DB, gainDb)))) / (TOP_DB - BOTTOM_DB);
  const left = Math.max(0, view.pxAt(startFrame));
  const right = Math.min(view.widthPx, view.pxAt(startFrame + db.length * stepFrames));
  if (right - left < 2) return null;
  const points: string[] = [];
  let deepest = 0;
  for (let x = left; x < right; x += STEP_PX) {
    const gainDb = most(view.frameAt(x), Math.max(view.frameAt(x + STEP_PX), view.frameAt(x) + stepFrames));
    if (Number.isNaN(gainDb)) continue;
    deepest = Math.min(deepest, gainDb);
    points.push(`${((100 * x) / view.widthPx).toFixed(3)},${y(gainDb).toFixed(2)}`);
  }
  return (
    <div aria-hidden data-gain-drawn={points.length} className="pointer-events-none absolute inset-0">
      <svg viewBox="0 0 100 100" preserveAspectRatio="none" className="absolute inset-0 h-full w-full text-removed">
        <line
          x1="0"
          x2="100"
          y1={y(0)}
          y2={y(0)}
          stroke="currentColor"
          strokeWidth="1"
          strokeDasharray="2 4"
          vectorEffect="non-scaling-stroke"
          opacity="0.5"
        />
        <polyline points={points.join(' ')} fill="none" stroke="currentColor" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
      </svg>
      {deepest < -0.5 && (
        <span className="absolute right-12 bottom-0.5 rounded-sheet bg-sheet/80 px-1 text-[12px] text-removed">
          to {setMinus(`${formatNumber(deepest, 1)} dB`)}
        </span>
      )}
    </div>
  );
}
