const LOWEST_DBFS = -80;
const share = (dbfs: number): string => `${Math.max(0, Math.min(1, (dbfs - LOWEST_DBFS) / -LOWEST_DBFS)) * 100}%`;
const TICKS = [-80, -60, -40, -20, 0];
/** Words at a usual level; common practice, no source. */
const USUAL_DBFS = [-28, -18] as const;

/** A level on its ruler: RMS as a bar, the peak as a line, what is usual for words in ochre. */
export function LevelBar({ rmsDbfs, peakDbfs, label }: { readonly rmsDbfs: number; readonly peakDbfs: number; readonly label: string }) {
  return (
    <div
      role="meter"
      aria-label={label}
      aria-valuemin={LOWEST_DBFS}
      aria-valuemax={0}
      aria-valuenow={Math.round(Math.max(LOWEST_DBFS, rmsDbfs))}
      className="relative h-[24px] border-b border-ink"
    >
      <i
        className="absolute bottom-0 h-[8px] bg-practice"
        style={{ left: share(USUAL_DBFS[0]), right: `calc(100% - ${share(USUAL_DBFS[1])})` }}
      />
      {TICKS.map((tick) => (
        <i key={tick} className="absolute bottom-0 h-[6px] w-px bg-line" style={{ left: share(tick) }} />
      ))}
      <i className="absolute bottom-[8px] left-0 h-[10px] bg-source" style={{ width: share(rmsDbfs) }} />
      <i
        className={`absolute bottom-[4px] h-[18px] w-[2px] ${peakDbfs > -1 ? 'bg-removed' : 'bg-source'}`}
        style={{ left: share(peakDbfs) }}
      />
    </div>
  );
}
