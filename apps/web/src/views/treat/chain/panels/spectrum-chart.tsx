import type { ReactNode } from 'react';
import { useMemo, useRef } from 'react';
import { hzAtShare, shareOfHz, type HzAxis } from '../../../../drawing/hz-axis.js';
import { useSpectra } from '../../../../workbench/workbench-context.js';

export const CHART_WIDTH = 364;
const POINTS = 240;
const FLOOR_DB = -120;
const TOP_DB = -20;

export const hzToX = (axis: HzAxis, hz: number): number => shareOfHz(axis, hz) * CHART_WIDTH;
export const xToHz = (axis: HzAxis, x: number): number => hzAtShare(axis, x / CHART_WIDTH);

interface Props {
  readonly axis: HzAxis;
  readonly height: number;
  readonly label: string;
  /** Whether all of the sound is shown, or what lies between the words. */
  readonly of?: 'all' | 'gaps';
  /** Drawn over the spectra, in the chart's coordinates. */
  readonly children?: ReactNode;
  readonly onPointer?: (type: 'down' | 'move' | 'up', x: number, y: number) => void;
}

/** Long-term spectra of source and result, with whatever a treatment draws over them. */
export function SpectrumChart({ axis, height, label, of = 'all', children, onPointer }: Props) {
  const both = useSpectra();
  const spectra = of === 'gaps' ? both?.gaps : both;
  const ref = useRef<SVGSVGElement>(null);
  const paths = useMemo(
    () =>
      spectra && {
        source: pathOf(spectra.source, spectra.binHz, axis, height),
        result: pathOf(spectra.result, spectra.binHz, axis, height),
      },
    [spectra, axis, height],
  );
  const ticks = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000].filter((hz) => hz > axis.lowHz * 1.05 && hz < axis.highHz * 0.97);
  const tell =
    (type: 'down' | 'move' | 'up') =>
    (event: React.PointerEvent<SVGSVGElement>): void => {
      if (!onPointer) return;
      const box = ref.current!.getBoundingClientRect();
      const at = ((event.clientX - box.left) / box.width) * CHART_WIDTH;
      const down = ((event.clientY - box.top) / box.height) * height;
      if (type === 'down') event.currentTarget.setPointerCapture(event.pointerId);
      if (type !== 'move' || event.currentTarget.hasPointerCapture(event.pointerId)) onPointer(type, at, down);
    };
  return (
    <svg
      ref={ref}
      role="img"
      aria-label={label}
      viewBox={`0 0 ${CHART_WIDTH} ${height + 14}`}
      className={`mb-1 block w-full touch-none select-none ${onPointer ? 'cursor-crosshair' : ''}`}
      onPointerDown={tell('down')}
      onPointerMove={tell('move')}
      onPointerUp={tell('up')}
    >
      <rect x={0} y={0} width={CHART_WIDTH} height={height} className="fill-paper stroke-line" />
      {ticks.map((hz) => (
        <g key={hz}>
          <line x1={hzToX(axis, hz)} x2={hzToX(axis, hz)} y1={0} y2={height} className="stroke-faint" />
          <text x={hzToX(axis, hz)} y={height + 11} textAnchor="middle" className="fill-soft text-[10px]">
            {hz < 1000 ? hz : `${hz / 1000} k`}
          </text>
        </g>
      ))}
      {paths ? (
        <>
          <path d={paths.source} fill="none" className="stroke-source" strokeWidth={1} opacity={0.55} />
          <path d={paths.result} fill="none" className="stroke-result" strokeWidth={1.4} />
        </>
      ) : (
        <text x={CHART_WIDTH / 2} y={height / 2} textAnchor="middle" className="fill-soft text-[12px]">
          measuring …
        </text>
      )}
      {children}
    </svg>
  );
}

/** The loudest bin between neighbouring points, so that no line is lost. */
function pathOf(levels: Float32Array, binHz: number, axis: HzAxis, height: number): string {
  const y = (db: number): number => ((TOP_DB - Math.max(FLOOR_DB, Math.min(TOP_DB, db))) / (TOP_DB - FLOOR_DB)) * height;
  let path = '';
  for (let i = 0; i < POINTS; i++) {
    const x = (i / (POINTS - 1)) * CHART_WIDTH;
    const from = Math.max(1, Math.round(xToHz(axis, x - CHART_WIDTH / POINTS / 2) / binHz));
    const to = Math.max(from, Math.round(xToHz(axis, x + CHART_WIDTH / POINTS / 2) / binHz));
    let most = -200;
    for (let k = from; k <= to && k < levels.length; k++) most = Math.max(most, levels[k]!);
    path += `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y(most).toFixed(1)}`;
  }
  return path;
}

/** Level of the strongest bin near a frequency; null while nothing is measured. */
export function levelNear(levels: Float32Array | undefined, binHz: number, hz: number): number | null {
  if (!levels) return null;
  const middle = Math.round(hz / binHz);
  let most = -200;
  for (let k = Math.max(1, middle - 1); k <= middle + 1 && k < levels.length; k++) most = Math.max(most, levels[k]!);
  return most;
}
