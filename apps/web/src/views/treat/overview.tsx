import { endOf } from '@euphonos/engine';
import { useCallback, useMemo, useRef, type PointerEvent } from 'react';
import { Canvas, type Draw } from '../../drawing/canvas.js';
import { drawWave } from '../../drawing/draw-strip.js';
import { runsIn } from '../../drawing/runs.js';
import { TimeView } from '../../drawing/time-view.js';
import { useTrackSound, useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

const STYLE = { picture: 'wave', axis: 'log', inkFloorDbfs: -96, waveScale: 'decibel', waveFloorDbfs: -66, waveHeightDbfs: 0 } as const;

/** The whole recording, with the stretch that the strips show; drag it, or click beside it. */
export function Overview() {
  const { view, pictures, onPictures } = useWorkbench();
  const { clips, roomTone } = useTrackSound();
  const lengthFrames = endOf(clips);
  const widthPx = view.widthPx;
  const whole = useMemo(() => {
    const made = new TimeView(lengthFrames);
    made.resize(widthPx);
    return made;
  }, [lengthFrames, widthPx]);
  const ref = useRef<HTMLDivElement>(null);
  const grip = useRef(0);
  useView(view);
  const resize = useCallback((width: number) => whole.resize(width), [whole]);
  const draw = useCallback<Draw>(
    (pen, width, height) => {
      pen.clearRect(0, 0, width, height);
      pictures.startFrame('overview');
      drawWave(
        pen,
        'source',
        width,
        height,
        whole,
        runsIn(clips, roomTone, 0, lengthFrames, whole.framesPerPx),
        pictures,
        STYLE,
        'overview',
      );
      pictures.endFrame();
    },
    [pictures, whole, lengthFrames, clips, roomTone],
  );
  const frameOf = (event: PointerEvent): number =>
    ((event.clientX - ref.current!.getBoundingClientRect().left) / ref.current!.clientWidth) * lengthFrames;
  const moveTo = (frame: number): void => view.scroll((frame - view.startFrame) / view.framesPerPx);
  const share = (frames: number): string => `${(frames / lengthFrames) * 100}%`;
  return (
    <div
      ref={ref}
      className="relative h-[40px] shrink-0 cursor-grab touch-none overflow-hidden rounded-sheet border border-line bg-sheet"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        const frame = frameOf(event);
        const inside = frame >= view.startFrame && frame <= view.endFrame;
        grip.current = inside ? frame - view.startFrame : view.spanFrames / 2;
        if (!inside) moveTo(frame - grip.current);
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && moveTo(frameOf(event) - grip.current)}
      onDoubleClick={() => view.showAll()}
    >
      <Canvas draw={draw} subscribe={onPictures} onResize={resize} label="The whole recording" />
      <i
        aria-hidden
        className="pointer-events-none absolute inset-y-0 min-w-[2px] border-x border-ink bg-ink/7"
        style={{ left: share(view.startFrame), width: share(view.spanFrames) }}
      />
    </div>
  );
}
