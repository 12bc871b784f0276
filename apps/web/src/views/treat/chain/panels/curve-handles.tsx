import { curveOffsetDb, type ListRow } from '@euphonos/dsp';
import { useRef, useState, type PointerEvent } from 'react';
import type { Plot } from '../../../../components/chart.js';
import { formatNumber } from '../../../../components/figures.js';
import type { CurvePoint } from './noise-lines.js';

const TICKS_HZ = [100, 300, 1000, 3000, 10000];
const GRAB_PX = 9;
/** A press this near to the curve sets a new point. */
const NEAR_PX = 14;
const STEP_DB = 0.5;

interface Props {
  readonly plot: Plot;
  readonly hz: readonly number[];
  readonly noiseDb: readonly number[];
  readonly depthsDb: readonly number[];
  readonly rangeDb: readonly [number, number];
  readonly editable: boolean;
  readonly curve: readonly CurvePoint[];
  readonly most: number;
  readonly offsetRange: readonly [number, number];
  readonly onChange: (curve: readonly CurvePoint[]) => void;
}

/** What remains of the noise, over the chart of it: press on the line for a point, drag it, press twice to remove it. */
export function CurveHandles({ plot, hz, noiseDb, depthsDb, rangeDb, editable, curve, most, offsetRange, onChange }: Props) {
  const ref = useRef<SVGSVGElement>(null);
  const grabbed = useRef<number | null>(null);
  const [chosen, setChosen] = useState<number | null>(null);
  const [lowHz, highHz] = [hz[0]!, hz[hz.length - 1]!];
  const x = (at: number): number => (Math.log(at / lowHz) / Math.log(highHz / lowHz)) * plot.width;
  const y = (db: number): number => Math.max(0, Math.min(plot.height, ((rangeDb[1] - db) / (rangeDb[1] - rangeDb[0])) * plot.height));
  const hzAt = (px: number): number => lowHz * (highHz / lowHz) ** Math.max(0, Math.min(1, px / plot.width));
  const nearest = (at: number): number =>
    Math.max(0, Math.min(hz.length - 1, Math.round((Math.log(at / lowHz) / Math.log(highHz / lowHz)) * (hz.length - 1))));
  const restAt = (at: number): number => noiseDb[nearest(at)]! - depthsDb[nearest(at)]!;
  const place = (event: PointerEvent): { readonly px: number; readonly py: number } => {
    const box = ref.current!.getBoundingClientRect();
    return { px: event.clientX - box.left, py: event.clientY - box.top };
  };
  const pointAt = (px: number, py: number): number =>
    curve.findIndex(({ frequencyHz }) => Math.hypot(x(frequencyHz) - px, y(restAt(frequencyHz)) - py) < GRAB_PX);
  const hold = (value: number): number => Math.max(offsetRange[0], Math.min(offsetRange[1], Math.round(value / STEP_DB) * STEP_DB));

  const onPointerDown = (event: PointerEvent<SVGSVGElement>): void => {
    if (!editable) return;
    const { px, py } = place(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    const found = pointAt(px, py);
    grabbed.current = found >= 0 ? found : null;
    if (found >= 0) return setChosen(found);
    const at = Math.round(hzAt(px));
    if (Math.abs(y(restAt(at)) - py) > NEAR_PX || curve.length >= most) return setChosen(null);
    // The curve keeps its course: the new point takes the offset that it has there.
    grabbed.current = curve.length;
    setChosen(curve.length);
    onChange([...curve, { frequencyHz: at, offsetDb: hold(curveOffsetDb(at, curve as unknown as readonly ListRow[])) }]);
  };
  const onPointerMove = (event: PointerEvent<SVGSVGElement>): void => {
    const index = grabbed.current;
    const point = index === null ? undefined : curve[index];
    if (!point || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const { px, py } = place(event);
    const at = Math.round(Math.max(20, Math.min(20000, hzAt(px))));
    const wantedDb = rangeDb[1] - (py / plot.height) * (rangeDb[1] - rangeDb[0]);
    const offsetDb = hold(point.offsetDb + restAt(point.frequencyHz) - wantedDb);
    onChange(curve.map((other, i) => (i === index ? { frequencyHz: at, offsetDb } : other)));
  };
  const remove = (index: number): void => {
    setChosen(null);
    onChange(curve.filter((_, i) => i !== index));
  };
  const point = chosen === null ? undefined : curve[chosen];
  return (
    <>
      <svg
        ref={ref}
        aria-hidden
        className={`absolute overflow-visible touch-none select-none ${editable ? 'cursor-crosshair' : ''}`}
        data-curve-plot
        style={{ left: plot.left, top: plot.top, width: plot.width, height: plot.height }}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={() => (grabbed.current = null)}
        onDoubleClick={(event) => {
          const found = pointAt(place(event as unknown as PointerEvent).px, place(event as unknown as PointerEvent).py);
          if (found >= 0 && editable) remove(found);
        }}
      >
        <rect x={0} y={0} width={plot.width} height={plot.height} fill="transparent" />
        {TICKS_HZ.filter((at) => at < highHz).map((at) => (
          <text key={at} x={x(at)} y={plot.height + 12} textAnchor="middle" className="fill-soft text-[10px]">
            {at < 1000 ? at : `${at / 1000} k`}
          </text>
        ))}
        <polyline
          points={hz.map((at, i) => `${x(at).toFixed(1)},${y(noiseDb[i]! - depthsDb[i]!).toFixed(1)}`).join(' ')}
          fill="none"
          className="stroke-result"
          strokeWidth={2}
        />
        {curve.map(({ frequencyHz }, i) => (
          <rect
            key={i}
            data-curve-point
            x={x(frequencyHz) - 4.5}
            y={y(restAt(frequencyHz)) - 4.5}
            width={9}
            height={9}
            className={`cursor-move stroke-result ${i === chosen ? 'fill-result' : 'fill-sheet'}`}
            strokeWidth={1.5}
          />
        ))}
      </svg>
      {point && (
        <p className="m-0 pt-1 text-[12px]" role="status">
          {formatNumber(point.frequencyHz, 0)} Hz:{' '}
          {point.offsetDb === 0
            ? 'as everywhere'
            : `${formatNumber(Math.abs(point.offsetDb), 1)} dB ${point.offsetDb > 0 ? 'more' : 'less'}`}
          , {formatNumber(depthsDb[nearest(point.frequencyHz)]!, 1)} dB in all.{' '}
          <button type="button" className="text-soft underline decoration-dotted hover:text-removed" onClick={() => remove(chosen!)}>
            Remove the point
          </button>
        </p>
      )}
    </>
  );
}
