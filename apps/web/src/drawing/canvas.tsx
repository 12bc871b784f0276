import { useEffect, useLayoutEffect, useRef } from 'react';
import { onThemeChange } from './inks.js';

export type Draw = (pen: CanvasRenderingContext2D, width: number, height: number) => void;

interface Props {
  /** Draws everything, in CSS pixels. */
  readonly draw: Draw;
  /** Calls back when something changed that only the drawing knows of. */
  readonly subscribe?: (redraw: () => void) => () => void;
  readonly onResize?: (width: number) => void;
  readonly className?: string;
  readonly label: string;
}

/** A canvas that fills its parent, sharp on any screen, drawn at most once a frame. */
export function Canvas({ draw, subscribe, onResize, className, label }: Props) {
  const ref = useRef<HTMLCanvasElement>(null);
  const latest = useRef(draw);
  const redraw = useRef<() => void>(() => undefined);
  useLayoutEffect(() => {
    latest.current = draw;
    redraw.current();
  }, [draw]);

  useEffect(() => {
    const canvas = ref.current!;
    const pen = canvas.getContext('2d')!;
    let frame = 0;
    const paint = (): void => {
      frame = 0;
      const { clientWidth: width, clientHeight: height } = canvas;
      const scale = devicePixelRatio;
      if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
        canvas.width = Math.round(width * scale);
        canvas.height = Math.round(height * scale);
      }
      pen.setTransform(scale, 0, 0, scale, 0, 0);
      latest.current(pen, width, height);
    };
    const ask = (): void => {
      if (!frame) frame = requestAnimationFrame(paint);
    };
    redraw.current = ask;
    const observer = new ResizeObserver(() => {
      onResize?.(canvas.clientWidth);
      ask();
    });
    observer.observe(canvas);
    const stops = [subscribe?.(ask), onThemeChange(ask)];
    ask();
    return () => {
      cancelAnimationFrame(frame);
      observer.disconnect();
      for (const stop of stops) stop?.();
    };
  }, [subscribe, onResize]);

  return <canvas ref={ref} role="img" aria-label={label} className={`block h-full w-full ${className ?? ''}`} />;
}
