import type { MeterReading } from '@euphonos/engine';
import { useRef } from 'react';
import { formatNumber } from '../../components/figures.js';
import { shareOf } from '../../components/ruler-scale.js';
import { useApp } from '../../store/store.js';
import { useFrameLoop } from '../../workbench/use-frame-loop.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

const RANGE = { min: -60, max: 0, scale: 'linear' } as const;
const TICKS = [-60, -50, -40, -30, -20, -10, 0];
/** A peak stays readable for this long. */
const PEAK_HOLD_MS = 1200;

const place = (level: number): string => `${(shareOf(RANGE, Number.isFinite(level) ? level : -60) * 100).toFixed(2)}%`;
const figure = (level: number): string => (Number.isFinite(level) && level > -100 ? formatNumber(level, 1) : '–');

/** The level of what is heard, on one ruler: RMS as a band with the peak as a mark, loudness below, the target behind. */
export function Meter() {
  const { player } = useWorkbench();
  const lane = useApp(({ listening }) => listening.lane);
  const target = useApp(({ session }) => session?.history?.present.target);
  const parts = useRef<Partial<Record<'rms' | 'peak' | 'momentary' | 'shortTerm' | keyof MeterReading, HTMLElement | null>>>({});
  const part = (name: keyof (typeof parts)['current']) => (element: HTMLElement | null) => {
    parts.current[name] = element;
  };
  const held = useRef({ peak: -Infinity, at: 0 });

  useFrameLoop(() => {
    const meters = player.meters;
    const now = performance.now();
    if (meters.peakDbfs >= held.current.peak || now - held.current.at > PEAK_HOLD_MS) held.current = { peak: meters.peakDbfs, at: now };
    const { rms, peak, momentary, shortTerm } = parts.current;
    if (rms) rms.style.width = place(meters.rmsDbfs);
    if (peak) peak.style.left = place(held.current.peak);
    if (momentary) momentary.style.width = place(meters.momentaryLufs);
    if (shortTerm) shortTerm.style.left = place(meters.shortTermLufs);
    const texts = {
      peakDbfs: held.current.peak,
      rmsDbfs: meters.rmsDbfs,
      momentaryLufs: meters.momentaryLufs,
      shortTermLufs: meters.shortTermLufs,
    };
    for (const [name, level] of Object.entries(texts)) {
      const element = parts.current[name as keyof MeterReading];
      const text = figure(level);
      if (element && element.textContent !== text) element.textContent = text;
    }
  });

  const ink = { source: 'bg-source', removed: 'bg-removed', result: 'bg-result' }[lane];
  const lufs = target?.integratedLufs ?? null;
  return (
    <div className="flex min-w-0 grow items-center gap-5" role="group" aria-label="Level of what is heard">
      <div className="relative h-[50px] min-w-[160px] grow text-[11px] text-soft">
        {lufs !== null && (
          <i
            className="absolute top-[14px] h-[24px] bg-practice"
            title={`Target ${formatNumber(lufs, 0)} LUFS`}
            style={{ left: place(lufs - target!.toleranceLu), width: `${((2 * target!.toleranceLu) / 60) * 100}%` }}
          />
        )}
        <i ref={part('rms')} className={`absolute left-0 top-[17px] h-[5px] opacity-60 ${ink}`} />
        <i ref={part('peak')} className={`absolute top-[14px] -ml-px h-[9px] w-[2px] ${ink}`} />
        <i className="absolute inset-x-0 top-[25px] h-px bg-ink" />
        <i ref={part('momentary')} className={`absolute left-0 top-[29px] h-[7px] ${ink}`} />
        <i ref={part('shortTerm')} className="absolute top-[26px] -ml-[1.5px] h-[13px] w-[3px] bg-ink" />
        {TICKS.map((tick) => (
          <span
            key={tick}
            className={`absolute top-[-3px] ${tick % 20 === 0 ? '' : 'max-[1180px]:hidden'} ${tick === -60 ? '' : tick === 0 ? '-translate-x-full' : '-translate-x-1/2'}`}
            style={{ left: place(tick) }}
          >
            {formatNumber(tick, 0)}
          </span>
        ))}
        <span className="absolute bottom-[-4px] left-0 whitespace-nowrap max-[1180px]:hidden">
          above: RMS, peak dBFS · below: momentary, short-term LUFS
        </span>
      </div>
      <dl className="m-0 grid shrink-0 grid-cols-[auto_44px_auto_44px] items-baseline gap-x-2 text-[12px] text-soft">
        <Figure title="peak" refer={part('peakDbfs')} />
        <Figure title="momentary" refer={part('momentaryLufs')} />
        <Figure title="RMS" refer={part('rmsDbfs')} />
        <Figure title="short-term" refer={part('shortTermLufs')} strong />
      </dl>
    </div>
  );
}

function Figure({
  title,
  refer,
  strong = false,
}: {
  readonly title: string;
  readonly refer: (element: HTMLElement | null) => void;
  readonly strong?: boolean;
}) {
  return (
    <>
      <dt>{title}</dt>
      <dd ref={refer} data-meter={title} className={`m-0 text-right text-ink ${strong ? 'font-semibold' : ''}`}>
        –
      </dd>
    </>
  );
}
