import { useRef, type PointerEvent } from 'react';
import { formatTime } from '../../components/figures.js';
import { timeTicks } from '../../drawing/time-ticks.js';
import { useApp } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

/** While somebody scrubs, play goes to the pointer so often: long enough to hear what is there. */
const SCRUB_MS = 130;

/** The times under the strips, and the marks; drag along it to hear what is under the pointer. */
export function TimeAxis() {
  const workbench = useWorkbench();
  const { view, player, sampleRateHz } = workbench;
  const marks = useApp(({ session }) => session!.history!.present.marks);
  const scrub = useRef<{
    readonly wasPlaying: boolean;
    frame: number;
    heard: number;
    readonly timer: ReturnType<typeof setInterval>;
  } | null>(null);
  useView(view);
  const { seconds, digits } = timeTicks(view.startFrame / sampleRateHz, view.endFrame / sampleRateHz, view.widthPx);
  const frameOf = (event: PointerEvent): number =>
    Math.max(0, Math.round(view.frameAt(event.clientX - event.currentTarget.getBoundingClientRect().left)));
  const onPointerDown = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const wasPlaying = player.playing;
    const now = { wasPlaying, frame: frameOf(event), heard: -1, timer: setInterval(() => hear(), SCRUB_MS) };
    scrub.current = now;
    player.seek(now.frame);
    if (!wasPlaying) player.play().catch(() => undefined);
  };
  const hear = (): void => {
    const now = scrub.current;
    // Where the pointer rests it plays on from there.
    if (!now) return;
    if (now.frame === now.heard) {
      workbench.scrubbedFrame = null;
      return;
    }
    now.heard = now.frame;
    player.seek(now.frame);
  };
  const end = (): void => {
    const now = scrub.current;
    scrub.current = null;
    workbench.scrubbedFrame = null;
    if (!now) return;
    clearInterval(now.timer);
    if (!now.wasPlaying) player.stop();
    player.seek(now.frame);
  };
  return (
    <div
      title="Drag to hear what is under the pointer"
      data-time-axis
      className="relative -mt-1 h-[15px] shrink-0 cursor-ew-resize touch-none overflow-hidden text-[11px] text-soft select-none"
      onPointerDown={onPointerDown}
      onPointerMove={(event) => {
        if (scrub.current) scrub.current.frame = workbench.scrubbedFrame = frameOf(event);
      }}
      onPointerUp={end}
      onPointerCancel={end}
    >
      {seconds.map((tick) => (
        <span
          key={tick}
          className="absolute top-0 border-l border-line pl-1 leading-[14px]"
          style={{ left: view.pxAt(tick * sampleRateHz) }}
        >
          {formatTime(tick, digits)}
        </span>
      ))}
      {marks.map(({ id, name, startFrame, endFrame }) => {
        const left = view.pxAt(startFrame);
        const right = endFrame === null ? left : view.pxAt(endFrame);
        if (right < 0 || left > view.widthPx) return null;
        return (
          <span
            key={id}
            title={name}
            className="absolute top-0 max-w-[140px] truncate border-l-2 border-ink bg-paper pr-1 pl-1 leading-[14px] text-ink"
            style={{ left: Math.max(0, left) }}
          >
            {name}
          </span>
        );
      })}
    </div>
  );
}
