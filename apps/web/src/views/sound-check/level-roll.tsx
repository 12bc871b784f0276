import { useEffect, useState } from 'react';
import { useDesk } from './use-desk.js';

/** A report every 0.1 s. */
const REPORTS = 200;
const LOWEST_DBFS = -80;
const HEIGHT = 100;
const y = (dbfs: number): number => HEIGHT * (1 - Math.max(0, Math.min(1, (dbfs - LOWEST_DBFS) / -LOWEST_DBFS)));

interface Moment {
  readonly rmsDbfs: number;
  readonly peakDbfs: number;
}

/** The last twenty seconds of what came in: level and peaks. */
export function LevelRoll() {
  const desk = useDesk();
  const [moments, setMoments] = useState<readonly Moment[]>([]);
  useEffect(() => {
    let last = desk.state.meter;
    return desk.subscribe(() => {
      const { meter } = desk.state;
      if (meter === last) return;
      last = meter;
      setMoments((before) => (meter ? [...before.slice(1 - REPORTS), meter] : []));
    });
  }, [desk]);
  if (moments.length === 0) return null;
  const x = (i: number): number => REPORTS - moments.length + i;
  const line = moments.map(({ rmsDbfs }, i) => `${x(i)},${y(rmsDbfs).toFixed(1)}`).join(' ');
  return (
    <section aria-label="The last 20 seconds" className="px-5 pt-1 pb-4">
      <div className="flex items-baseline justify-between text-[12.5px] text-soft">
        <span>The last 20 seconds</span>
        <span>level, and peaks above it; 0 to −80 dBFS</span>
      </div>
      <svg viewBox={`0 0 ${REPORTS} ${HEIGHT}`} preserveAspectRatio="none" className="mt-1 block h-[150px] w-full border-y border-line">
        {[-20, -40, -60].map((dbfs) => (
          <line key={dbfs} x1={0} x2={REPORTS} y1={y(dbfs)} y2={y(dbfs)} className="stroke-faint" vectorEffect="non-scaling-stroke" />
        ))}
        <polygon points={`${x(0)},${HEIGHT} ${line} ${REPORTS - 1},${HEIGHT}`} className="fill-source/75" />
        {moments.map(({ peakDbfs }, i) => (
          <line
            key={i}
            x1={x(i)}
            x2={x(i) + 0.7}
            y1={y(peakDbfs)}
            y2={y(peakDbfs)}
            className={peakDbfs > -1 ? 'stroke-removed' : 'stroke-source'}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
    </section>
  );
}
