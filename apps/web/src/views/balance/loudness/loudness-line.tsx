import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { formatNumber } from '../../../components/figures.js';
import { Canvas } from '../../../drawing/canvas.js';
import { changed } from '../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useFrameLoop } from '../../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { drawCourse, drawTrail, type Course, type Window } from './draw-loudness.js';
import { LiveTrail } from './live-trail.js';
import { standsAfter, valueAt, type Measure } from './measures.js';

/** Less is a click. */
const CLICK_PX = 3;
/** What is played went on elsewhere. */
const JUMP_SECONDS = 0.5;

interface Props {
  readonly course: Course | null;
  readonly measure: Measure;
  readonly target: { readonly lufs: number; readonly toleranceLu: number } | null;
  readonly window: Window;
}

/** Loudness over time, before and after, as it is heard, with the target's band and the playhead; a click goes there, a drag selects. */
export function LoudnessLine({ course, measure, target, window }: Props) {
  const { player, sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const selection = useApp(({ listening }) => listening.selection);
  const lane = useApp(({ listening }) => listening.lane);
  const head = useRef<HTMLElement>(null);
  const figure = useRef<HTMLElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const from = useRef<{ readonly x: number; readonly frame: number; moved: boolean } | null>(null);
  /** What was played in one go until now, in seconds of the session. */
  const heard = useRef({ from: 0, to: 0 });
  const [trail] = useState(() => new LiveTrail());
  // What was heard counts until it is measured, and of one measure.
  useEffect(() => trail.clear(), [trail, course, measure]);
  const { fromSeconds, toSeconds } = window;
  const courseDraw = useMemo(() => drawCourse(course, target, window), [course, target, window]);
  const trailDraw = useMemo(() => drawTrail(trail, window), [trail, window]);
  const line = course?.[lane === 'source' ? 'before' : 'after'];

  useFrameLoop(() => {
    if (!head.current || !figure.current) return;
    const seconds = player.frame / sampleRateHz;
    const share = (seconds - fromSeconds) / (toSeconds - fromSeconds);
    head.current.style.left = `${100 * share}%`;
    head.current.style.visibility = share >= 0 && share <= 1 ? '' : 'hidden';
    const lufs = line && valueAt(line, seconds);
    const text = lufs === undefined || lufs === -Infinity ? '' : formatNumber(lufs, 1);
    if (figure.current.textContent !== text) figure.current.textContent = text;
    figure.current.style.translate = share > 0.93 ? 'calc(-100% - 6px)' : '4px';
    if (!player.playing || Math.abs(seconds - heard.current.to) > JUMP_SECONDS) heard.current = { from: seconds, to: seconds };
    heard.current.to = seconds;
    // A meter that has not heard its whole window yet counts the rest as silence.
    if (measure === 'so far' || seconds - heard.current.from < 2 * standsAfter(measure)) return;
    const { momentaryLufs, shortTermLufs } = player.meters;
    trail.note(seconds - standsAfter(measure), measure === 'momentary' ? momentaryLufs : shortTermLufs);
  });

  const frameAt = ({ clientX }: PointerEvent): number => {
    const { left, width } = box.current!.getBoundingClientRect();
    const share = Math.max(0, Math.min(1, (clientX - left) / width));
    return Math.round((fromSeconds + share * (toSeconds - fromSeconds)) * sampleRateHz);
  };
  const down = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = { x: event.clientX, frame: frameAt(event), moved: false };
  };
  const move = (event: PointerEvent<HTMLDivElement>): void => {
    const start = from.current;
    if (!start || (!start.moved && Math.abs(event.clientX - start.x) < CLICK_PX)) return;
    start.moved = true;
    const frame = frameAt(event);
    if (frame !== start.frame)
      dispatch(changed({ selection: { startFrame: Math.min(frame, start.frame), endFrame: Math.max(frame, start.frame) }, band: null }));
  };
  const up = (event: PointerEvent<HTMLDivElement>): void => {
    if (from.current && !from.current.moved) {
      dispatch(changed({ selection: null }));
      player.seek(frameAt(event));
    }
    from.current = null;
  };
  const left = (frame: number): number =>
    Math.max(0, Math.min(100, (100 * (frame / sampleRateHz - fromSeconds)) / (toSeconds - fromSeconds)));
  return (
    <div
      ref={box}
      data-loudness={course ? 'ready' : 'coming'}
      className="relative h-full min-h-[90px] cursor-crosshair overflow-hidden border-y border-line"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => (from.current = null)}
    >
      {selection && (
        <i
          aria-hidden
          className="pointer-events-none absolute inset-y-0 bg-focus/15"
          style={{ left: `${left(selection.startFrame)}%`, right: `${100 - left(selection.endFrame)}%` }}
        />
      )}
      <Canvas draw={courseDraw} label={`Loudness over time (${measure}), before and after`} />
      <div className="pointer-events-none absolute inset-0">
        <Canvas draw={trailDraw} subscribe={trail.subscribe} label="Loudness as it was heard" />
      </div>
      <i ref={head} aria-hidden className="pointer-events-none absolute inset-y-0 w-[1.5px] bg-focus not-italic">
        <b ref={figure} className="absolute bottom-1 text-[12px] font-semibold whitespace-nowrap text-focus" />
      </i>
    </div>
  );
}
