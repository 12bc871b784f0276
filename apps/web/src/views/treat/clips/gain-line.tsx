import { clipEnd, lineDb, offsetOf, type GainPoint } from '@euphonos/engine';
import { useRef, useState, type MouseEvent, type PointerEvent } from 'react';
import { setMinus } from '../../../components/figures.js';
import { activeTrack } from '../../../store/session-slice.js';
import { useApp } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useView } from '../use-view.js';
import { useClipEdits } from './use-clip-edits.js';

/** The strip's height stands for these decibels; what is lower stays at the bottom. */
const TOP_DB = 12;
const BOTTOM_DB = -36;
const POINT_PX = 5;
const LINE_STEP_PX = 4;

/** On the result strip: the gain line of the clip that is worked on, with its points. */
export function GainLine() {
  const { view } = useWorkbench();
  const track = useApp(({ session }) => activeTrack(session));
  const chosen = useApp(({ listening }) => listening.chosenClip);
  const { edit } = useClipEdits();
  const ref = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  useView(view);
  const clip = track?.clips.find(({ id }) => id === chosen);
  if (!clip) return null;
  const offset = offsetOf(clip);
  const height = ref.current?.clientHeight ?? 120;
  const yOf = (db: number): number => ((TOP_DB - Math.max(BOTTOM_DB, Math.min(TOP_DB, db))) / (TOP_DB - BOTTOM_DB)) * height;
  const dbAt = (y: number): number => Math.round((TOP_DB - (y / height) * (TOP_DB - BOTTOM_DB)) * 2) / 2;
  const left = Math.max(0, view.pxAt(clip.startFrame));
  const right = Math.min(view.widthPx, view.pxAt(clipEnd(clip)));
  if (right - left < 2) return null;
  const write = (line: readonly GainPoint[]): void => void edit({ type: 'shape-clip', clipId: clip.id, shape: { line } });
  const at = (event: { clientX: number; clientY: number }): { frame: number; gainDb: number } => {
    const box = ref.current!.getBoundingClientRect();
    const px = Math.max(left, Math.min(right, event.clientX - box.left));
    return { frame: Math.round(view.frameAt(px) + offset), gainDb: Math.max(BOTTOM_DB, Math.min(TOP_DB, dbAt(event.clientY - box.top))) };
  };
  const move = (event: PointerEvent): void => {
    if (held === null) return;
    const point = at(event);
    const others = clip.line.filter((_, i) => i !== held);
    // It stays between its neighbours.
    const low = (clip.line[held - 1]?.frame ?? -1) + 1;
    const high = (clip.line[held + 1]?.frame ?? Infinity) - 1;
    write([...others, { ...point, frame: Math.max(low, Math.min(high, point.frame)) }].sort((a, b) => a.frame - b.frame));
  };
  const turn = (event: MouseEvent, index?: number): void => {
    event.stopPropagation();
    write(index === undefined ? [...clip.line, at(event)] : clip.line.filter((_, i) => i !== index));
  };
  const count = Math.max(1, Math.ceil((right - left) / LINE_STEP_PX));
  const points = Array.from({ length: count + 1 }, (_, i) => {
    const x = left + ((right - left) * i) / count;
    return `${x.toFixed(1)},${yOf(clip.line.length === 0 ? 0 : lineDb(clip.line, view.frameAt(x) + offset)).toFixed(1)}`;
  });
  return (
    <svg ref={ref} className="pointer-events-none absolute inset-0 h-full w-full" onPointerMove={move} onPointerUp={() => setHeld(null)}>
      <polyline
        points={points.join(' ')}
        fill="none"
        stroke="var(--focus)"
        strokeWidth={1.5}
        strokeDasharray={clip.line.length === 0 ? '3 4' : undefined}
      />
      {/* A broad invisible line takes the double click that makes a point. */}
      <polyline
        data-on-strip
        data-gain-line
        points={points.join(' ')}
        fill="none"
        stroke="transparent"
        strokeWidth={14}
        className="pointer-events-auto cursor-copy"
        onDoubleClick={(event) => turn(event)}
      />
      {clip.line.map((point, i) => (
        <circle
          key={i}
          data-on-strip
          data-gain-point
          cx={view.pxAt(point.frame - offset)}
          cy={yOf(point.gainDb)}
          r={POINT_PX}
          fill="var(--sheet)"
          stroke="var(--focus)"
          strokeWidth={2}
          className="pointer-events-auto cursor-move"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            setHeld(i);
          }}
          onDoubleClick={(event) => turn(event, i)}
        >
          <title>{setMinus(`${point.gainDb} dB`)}</title>
        </circle>
      ))}
    </svg>
  );
}
