import { formatNumber } from '../../components/figures.js';
import { useDeskState } from './use-desk.js';

const LOWEST_DBFS = -96;
const at = (dbfs: number): string => `${Math.max(0, Math.min(1, (dbfs - LOWEST_DBFS) / -LOWEST_DBFS)) * 100}%`;
const TICKS = [-90, -80, -70, -60, -50, -40, -30, -20, -10, 0];

interface Place {
  readonly name: string;
  readonly dbfs: number;
  readonly ink: string;
  /** Above the line, or below it. */
  readonly side: 'up' | 'down';
}

/** Everything that has a level on one ruler: the room, the usual noise, the gate, the words, the peaks, and what comes in now. */
export function LevelLadder() {
  const check = useDeskState((state) => state.check);
  const gate = useDeskState((state) => state.chain.treatments.find(({ kind, bypassed }) => kind === 'gate' && !bypassed));
  const limiter = useDeskState((state) => state.chain.treatments.find(({ kind, bypassed }) => kind === 'limiter' && !bypassed));
  const figures = check?.figures;
  const places: Place[] = [
    ...(figures
      ? [
          { name: 'silence', dbfs: figures.floorDbfs, ink: 'text-source', side: 'up' as const },
          ...(figures.usualDbfs === null
            ? []
            : [{ name: 'usual noise', dbfs: figures.usualDbfs, ink: 'text-removed', side: 'up' as const }]),
          { name: 'words', dbfs: figures.speechDbfs, ink: 'text-source', side: 'up' as const },
          { name: 'peaks', dbfs: figures.peakDbtp, ink: 'text-source', side: 'up' as const },
        ]
      : []),
    ...(check
      ? [
          { name: 'silence, treated', dbfs: check.thresholds.floorDb, ink: 'text-result', side: 'down' as const },
          { name: 'softest beginning', dbfs: check.thresholds.softestDb, ink: 'text-result', side: 'down' as const },
        ]
      : []),
    ...(limiter ? [{ name: 'ceiling', dbfs: Number(limiter['ceilingDbtp']), ink: 'text-result', side: 'down' as const }] : []),
  ];
  return (
    <section aria-label="Levels" className="px-5 pt-3">
      <div className="flex items-baseline justify-between">
        <h2 className="m-0 text-[17px]">Levels</h2>
        <span className="text-[12.5px] text-soft">as it comes above the line, what the gate hears below it; dBFS</span>
      </div>
      <div className="relative mt-1 h-[122px]" data-ladder>
        {gate && <GateBand openDb={Number(gate['openDb'])} closeDb={Number(gate['closeDb'])} />}
        <i className="absolute inset-x-0 top-[60px] h-px bg-ink" />
        {TICKS.map((tick) => (
          <span key={tick} className="absolute top-[56px] -translate-x-1/2 text-[11px] text-soft" style={{ left: at(tick) }}>
            <i className="mx-auto block h-[9px] w-px bg-ink" />
            {tick % 20 === 0 && formatNumber(tick, 0)}
          </span>
        ))}
        <Now />
        <Placed places={places.filter(({ side }) => side === 'up')} up />
        <Placed places={places.filter(({ side }) => side === 'down')} />
      </div>
    </section>
  );
}

/** Names keep out of each other's way: the next one that would touch stands a line further out. */
const NAME_WIDTH_DB = 13;

function Placed({ places, up = false }: { readonly places: readonly Place[]; readonly up?: boolean }) {
  const sorted = [...places].sort((a, b) => a.dbfs - b.dbfs);
  const ends: number[] = [];
  return sorted.map(({ name, dbfs, ink }) => {
    let row = 0;
    while (row < 2 && (ends[row] ?? -Infinity) > dbfs) row++;
    ends[row] = dbfs + NAME_WIDTH_DB;
    const height = 10 + 15 * row;
    return (
      <span
        key={name}
        className={`absolute text-[12px] leading-[14px] whitespace-nowrap ${ink}`}
        style={{ left: at(dbfs), ...(up ? { bottom: 62 } : { top: 74 }) }}
      >
        <span className={`absolute ${dbfs > -14 ? 'right-[4px]' : 'left-[4px]'}`} style={up ? { bottom: height - 6 } : { top: height - 8 }}>
          {name} <b className="font-semibold">{formatNumber(dbfs, 0)}</b>
        </span>
        <i className="absolute w-[1.5px] bg-current" style={up ? { bottom: 0, height: height + 6 } : { top: -13, height: height + 18 }} />
      </span>
    );
  });
}

/** Between the two the gate stays as it is. */
function GateBand({ openDb, closeDb }: { readonly openDb: number; readonly closeDb: number }) {
  const live = useDeskState((state) => state.live?.gateDb ?? null);
  const open = live !== null && live > -1;
  return (
    <span
      className="absolute inset-y-0 border-x border-result"
      style={{ left: at(closeDb), right: `calc(100% - ${at(openDb)})` }}
      title={`The gate closes at ${closeDb} and opens at ${openDb} dBFS`}
    >
      <i className={`block h-full ${open ? 'bg-result/30' : 'bg-result/12'}`} />
      <span className="absolute bottom-0 left-full ml-1 text-[12px] whitespace-nowrap text-result">
        gate {live === null ? `${formatNumber(closeDb, 1)} / ${formatNumber(openDb, 1)}` : open ? 'open' : 'shut'}
      </span>
    </span>
  );
}

/** What comes in at this moment. */
function Now() {
  const rmsDbfs = useDeskState((state) => state.live?.inDbfs ?? null);
  if (rmsDbfs === null) return null;
  return (
    <i
      className="absolute top-[46px] -ml-[6px] border-x-6 border-t-[12px] border-x-transparent border-t-focus"
      style={{ left: at(rmsDbfs) }}
    />
  );
}
