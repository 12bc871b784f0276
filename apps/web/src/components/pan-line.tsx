import { describePan } from '@euphonos/engine';
import { useRef, type KeyboardEvent, type PointerEvent } from 'react';

const WIDTH = 46;
const STEP = 0.05;
/** Near the middle it stays there. */
const MIDDLE = 0.06;

interface Props {
  readonly label: string;
  readonly value: number;
  readonly onChange: (value: number) => void;
}

/** Where something stands between left and right: a short ruler with a mark; drag it, arrow keys, double click for the middle. */
export function PanLine({ label, value, onChange }: Props) {
  const ref = useRef<HTMLDivElement>(null);
  const set = (next: number): void => onChange(Math.max(-1, Math.min(1, Math.round(next * 100) / 100)));
  const drag = (event: PointerEvent): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const { left, width } = ref.current!.getBoundingClientRect();
    const at = ((event.clientX - left) / width) * 2 - 1;
    set(Math.abs(at) < MIDDLE ? 0 : at);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP, PageDown: -5 * STEP, PageUp: 5 * STEP }[event.key];
    if (by === undefined && event.key !== 'Home' && event.key !== 'End') return;
    event.preventDefault();
    event.stopPropagation();
    set(by === undefined ? (event.key === 'Home' ? -1 : 1) : value + by);
  };
  return (
    <div
      ref={ref}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={-100}
      aria-valuemax={100}
      aria-valuenow={Math.round(value * 100)}
      aria-valuetext={describePan(value)}
      title={`${describePan(value)}; drag, double click for the middle`}
      className="relative h-[18px] shrink-0 cursor-ew-resize touch-none"
      style={{ width: WIDTH }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drag(event);
      }}
      onPointerMove={drag}
      onDoubleClick={() => onChange(0)}
      onKeyDown={onKeyDown}
    >
      <i className="absolute inset-x-0 top-1/2 h-px bg-line" />
      <i className="absolute top-[5px] bottom-[5px] left-1/2 w-px bg-soft" />
      <i className="absolute top-[2px] bottom-[2px] -ml-[1.5px] w-[3px] bg-ink" style={{ left: `${(value + 1) * 50}%` }} />
    </div>
  );
}
