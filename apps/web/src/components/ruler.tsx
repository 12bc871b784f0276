import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { digitsOf, formatNumber } from './figures.js';
import { shareOf, ticksOf, valueAt, type RulerScale } from './ruler-scale.js';
import { ValueBox } from './value-box.js';

interface Props extends RulerScale {
  readonly title: string;
  readonly unit: string;
  readonly value: number;
  readonly step: number;
  readonly usual?: number;
  /** The band usual in practice, in ochre. */
  readonly practice?: readonly [number, number] | undefined;
  /** What was measured in this recording, in rust. */
  readonly measured?: { readonly value: number; readonly words: string } | undefined;
  readonly sentence?: string;
  readonly signed?: boolean;
  readonly disabled?: boolean;
  readonly onChange: (value: number) => void;
}

/** A number on a ruler: its range, what is usual, what was measured, the setting. Drag, arrows, wheel, or type. */
export function Ruler({
  title,
  unit,
  value,
  min,
  max,
  step,
  scale,
  usual,
  practice,
  measured,
  sentence,
  signed,
  disabled,
  onChange,
}: Props) {
  const ref = useRef<HTMLDivElement>(null);
  const range = { min, max, scale };
  const digits = digitsOf(step);
  const set = (next: number): void => {
    const snapped = min + Math.round((Math.max(min, Math.min(max, next)) - min) / step) * step;
    const held = Number(Math.min(max, snapped).toFixed(6));
    if (!disabled && held !== value) onChange(held);
  };
  const place = (share: number): string => `${(share * 100).toFixed(3)}%`;
  const drag = (event: PointerEvent<HTMLDivElement>): void => {
    const box = ref.current!.getBoundingClientRect();
    set(valueAt(range, (event.clientX - box.left) / box.width));
  };
  /** One key press: a step, or on a logarithmic ruler at least 1 %. */
  const nudge = (steps: number): void => {
    const least = scale === 'log' && min > 0 ? Math.max(step, Math.round((value * 0.01) / step) * step) : step;
    set(value + steps * least);
  };
  const keys: Record<string, () => void> = {
    ArrowRight: () => nudge(1),
    ArrowUp: () => nudge(1),
    ArrowLeft: () => nudge(-1),
    ArrowDown: () => nudge(-1),
    PageUp: () => nudge(10),
    PageDown: () => nudge(-10),
    Home: () => set(min),
    End: () => set(max),
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const act = keys[event.key];
    if (!act || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  const wheel = useRef(nudge);
  wheel.current = nudge;
  useEffect(() => {
    // Only a ruler that has the focus turns with the wheel, so that scrolling past changes nothing.
    const onWheel = (event: WheelEvent): void => {
      if (document.activeElement !== ref.current) return;
      event.preventDefault();
      wheel.current(event.deltaY < 0 ? 1 : -1);
    };
    const element = ref.current!;
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, []);

  const text = `${signed && value > 0 ? '+' : ''}${formatNumber(value, digits)}${unit ? ` ${unit}` : ''}`;
  return (
    <div className={`flex items-center gap-3 py-0.5 ${disabled ? 'opacity-60' : ''}`} title={sentence}>
      <span className="w-[92px] shrink-0 truncate">{title}</span>
      <div
        ref={ref}
        role="slider"
        tabIndex={disabled ? -1 : 0}
        aria-label={title}
        aria-valuemin={min}
        aria-valuemax={max}
        aria-valuenow={value}
        aria-valuetext={text}
        aria-disabled={disabled}
        className="relative h-7 grow cursor-ew-resize touch-none"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event);
        }}
        onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && drag(event)}
        onDoubleClick={() => usual !== undefined && set(usual)}
        onKeyDown={onKeyDown}
      >
        {practice && (
          <i
            className="absolute top-[12px] h-[9px] bg-practice"
            style={{ left: place(shareOf(range, practice[0])), width: place(shareOf(range, practice[1]) - shareOf(range, practice[0])) }}
          />
        )}
        {ticksOf(range).map((tick) => (
          <i key={tick} className="absolute top-[15px] h-[6px] w-px bg-line" style={{ left: place(shareOf(range, tick)) }} />
        ))}
        <i className="absolute inset-x-0 top-[21px] h-px bg-ink" />
        {measured && (
          <i
            title={measured.words}
            className="absolute top-[5px] -ml-[4px] border-x-4 border-t-[7px] border-x-transparent border-t-removed"
            style={{ left: place(shareOf(range, measured.value)) }}
          />
        )}
        <i className="absolute top-[7px] -ml-[1.5px] h-[18px] w-[3px] bg-ink" style={{ left: place(shareOf(range, value)) }} />
      </div>
      <ValueBox title={title} text={text} value={value} disabled={disabled ?? false} onChange={set} />
    </div>
  );
}
