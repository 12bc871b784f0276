import { useState, type PointerEvent } from 'react';
import { formatNumber } from '../../../components/figures.js';
import { hzAtShare, shareOfHz } from '../../../drawing/hz-axis.js';
import type { Bands } from './equal-level.js';

const AXIS = { lowHz: 22.4, highHz: 22_400 };
const TICKS_HZ = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000];
/** Levels go so far down from the loudest band. */
const RANGE_DB = 60;
/** Differences are drawn up to so much either way, in this part of the height. */
const DIFFERENCE_DB = 12;
const DIFFERENCE_SHARE = 0.36;

interface Props {
  readonly width: number;
  readonly height: number;
  readonly before: Bands | null;
  readonly after: Bands;
  readonly reference: Bands | null;
  /** After over before, and the reference over after, at equal level. */
  readonly change: Bands;
  readonly missing: Bands;
  readonly onBand: (hz: number | null) => void;
}

/** A band reaches a twentieth of a decade to either side. */
const EDGE = 10 ** 0.05;

/** Third octaves before (graphite), after (teal) and of a reference (ochre), with their differences below. */
export function SpectrumPicture({ width, height, before, after, reference, change, missing, onBand }: Props) {
  const [at, setAt] = useState<number | null>(null);
  const x = (hz: number): number => width * shareOfHz(AXIS, hz);
  const levels = height * (1 - DIFFERENCE_SHARE) - 16;
  const zero = levels + 16 + (height * DIFFERENCE_SHARE - 16) / 2;
  const half = (height * DIFFERENCE_SHARE - 16) / 2 - 2;
  const top = Math.max(...[after, before ?? [], reference ?? []].flat().map(({ dbfs }) => dbfs)) + 3;
  const y = (dbfs: number): number => Math.min(levels, (levels * (top - dbfs)) / RANGE_DB);
  const down = (db: number): number => zero - (half * Math.max(-DIFFERENCE_DB, Math.min(DIFFERENCE_DB, db))) / DIFFERENCE_DB;
  const steps = (bands: Bands): string =>
    bands
      .map(({ hz, dbfs }, i) => `${i === 0 ? 'M' : 'L'}${x(hz / EDGE).toFixed(1)},${y(dbfs).toFixed(1)}H${x(hz * EDGE).toFixed(1)}`)
      .join('');
  const point = (event: PointerEvent<SVGSVGElement>): void => {
    const { left } = event.currentTarget.getBoundingClientRect();
    const hz = hzAtShare(AXIS, (event.clientX - left) / width);
    const band = after.find((one) => hz >= one.hz / EDGE && hz < one.hz * EDGE) ?? null;
    setAt(band?.hz ?? null);
    onBand(band?.hz ?? null);
  };
  const leave = (): void => {
    setAt(null);
    onBand(null);
  };
  const decades: number[] = [];
  for (let db = Math.floor(top / 12) * 12; db > top - RANGE_DB; db -= 12) decades.push(db);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="block h-full w-full"
      role="img"
      aria-label="Long-term spectrum in third octaves: before, after, difference"
      onPointerMove={point}
      onPointerLeave={leave}
    >
      {decades.map((db) => (
        <g key={db}>
          <line x1={0} x2={width} y1={y(db)} y2={y(db)} className="stroke-faint" />
          <text x={width - 4} y={y(db) - 3} textAnchor="end" className="fill-soft text-[11px]">
            {formatNumber(db, 0)}
          </text>
        </g>
      ))}
      {TICKS_HZ.map((hz) => (
        <g key={hz}>
          <line x1={x(hz)} x2={x(hz)} y1={0} y2={height} className="stroke-faint" />
          <text x={x(hz)} y={levels + 12} textAnchor="middle" className="fill-soft text-[11px]">
            {hz < 1000 ? hz : `${hz / 1000} k`}
          </text>
        </g>
      ))}
      {at !== null && <rect x={x(at / EDGE)} width={x(at * EDGE) - x(at / EDGE)} y={0} height={height} className="fill-focus/10" />}
      {reference && <path d={steps(reference)} fill="none" className="stroke-practice" strokeWidth={5} />}
      {before && <path d={steps(before)} fill="none" className="stroke-source" strokeWidth={1} />}
      <path d={steps(after)} fill="none" className="stroke-result" strokeWidth={2} />
      {[DIFFERENCE_DB / 2, -DIFFERENCE_DB / 2].map((db) => (
        <line key={db} x1={0} x2={width} y1={down(db)} y2={down(db)} className="stroke-faint" strokeDasharray="2 4" />
      ))}
      {change.map(({ hz, dbfs }) => (
        <rect
          key={hz}
          x={x(hz / EDGE) + 1.5}
          width={Math.max(1, x(hz * EDGE) - x(hz / EDGE) - 3)}
          y={Math.min(zero, down(dbfs))}
          height={Math.abs(down(dbfs) - zero)}
          className={dbfs >= 0 ? 'fill-result/70' : 'fill-removed/70'}
        />
      ))}
      {missing.map(({ hz, dbfs }) => (
        <line key={hz} x1={x(hz / EDGE)} x2={x(hz * EDGE)} y1={down(dbfs)} y2={down(dbfs)} className="stroke-practice" strokeWidth={4} />
      ))}
      <line x1={0} x2={width} y1={zero} y2={zero} className="stroke-soft" />
      <text x={width - 4} y={down(DIFFERENCE_DB / 2) - 3} textAnchor="end" className="fill-soft text-[11px]">
        +{DIFFERENCE_DB / 2}
      </text>
      <text x={width - 4} y={down(-DIFFERENCE_DB / 2) + 11} textAnchor="end" className="fill-soft text-[11px]">
        −{DIFFERENCE_DB / 2}
      </text>
    </svg>
  );
}
