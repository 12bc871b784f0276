import { matchTone, toneGainDb, type ChainSpec, type ThirdOctave, type ToneBand } from '@euphonos/dsp';
import type { Track } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { formatNumber, setMinus } from '../../../../components/figures.js';
import { shareOfHz } from '../../../../drawing/hz-axis.js';
import { useApp } from '../../../../store/store.js';
import { references, scopeOf } from '../../../../workbench/scope.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';

const WIDTH = 360;
const HEIGHT = 84;
const AXIS = { lowHz: 80, highHz: 12_500 };
/** Drawn down to so far below the loudest band. */
const RANGE_DB = 42;

interface Props {
  readonly track: Track;
  readonly treatmentId: string;
  readonly onTake: (bands: readonly ToneBand[]) => void;
}

interface Found {
  readonly name: string;
  readonly own: readonly ThirdOctave[];
  readonly reference: readonly ThirdOctave[];
  readonly bands: readonly ToneBand[];
}

/** Brings the tone of a track or a clip to that of another: third octaves of both, what it would be, and the bands, before they are taken. */
export function ToneMatch({ track, treatmentId, onTake }: Props) {
  const { mixing, sampleRateHz } = useWorkbench();
  const document = useApp(({ session }) => session!.history!.present);
  const clip = track.clips.find(({ chain }) => chain?.treatments.some(({ id }) => id === treatmentId));
  const others = references(document, clip ? `${track.id}/${clip.id}` : `${track.id}/`);
  const [working, setWorking] = useState(false);
  const [found, setFound] = useState<Found | null>(null);
  if (others.length === 0) return null;
  const compare = async (id: string): Promise<void> => {
    const other = others.find((one) => one.id === id);
    if (!other || working) return;
    setWorking(true);
    try {
      // As it is without this treatment.
      const bare = withoutTreatment(track, treatmentId);
      const ownScope = scopeOf({ ...document, tracks: [bare] }, new Set([clip ? `${track.id}/${clip.id}` : `${track.id}/`]));
      const scope = scopeOf(document, new Set([id]));
      const { after: own } = await mixing.spectra(ownScope.document, ownScope.span);
      const { after: reference } = await mixing.spectra(scope.document, scope.span);
      if (own && reference) setFound({ name: other.name, own, reference, bands: matchTone(own, reference, sampleRateHz) });
      else toast('One of the two is silent.', { id: 'tone-match' });
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'tone-match' });
    } finally {
      setWorking(false);
    }
  };
  return (
    <div className="mt-1 text-[12px]" data-tone-match={working ? 'coming' : (found?.bands.length ?? '')}>
      <label className="flex items-baseline gap-2">
        <span className="text-soft">Tone as that of</span>
        <select
          aria-label="Tone as that of"
          className="rounded-sheet border border-line bg-paper px-1 py-0.5"
          value=""
          disabled={working}
          onChange={({ target }) => void compare(target.value)}
        >
          <option value="">{working ? 'listening …' : (found?.name ?? 'choose')}</option>
          {others.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {found && (
        <>
          <Spectra found={found} sampleRateHz={sampleRateHz} />
          <p className="m-0 flex items-baseline gap-2">
            <span className="grow">
              {found.bands.length === 0
                ? 'They are alike already.'
                : setMinus(
                    found.bands
                      .map(({ frequencyHz, gainDb }) => `${gainDb > 0 ? '+' : ''}${formatNumber(gainDb, 1)} at ${frequencyHz} Hz`)
                      .join(' · '),
                  )}
            </span>
            {found.bands.length > 0 && (
              <button type="button" className="press shrink-0 py-0!" onClick={() => onTake(found.bands)}>
                Take these
              </button>
            )}
          </p>
        </>
      )}
    </div>
  );
}

function withoutTreatment(track: Track, treatmentId: string): Track {
  const bare = (chain: ChainSpec): ChainSpec => ({
    treatments: chain.treatments.map((one) => (one.id === treatmentId ? { ...one, bypassed: true } : one)),
  });
  const clips = track.clips.map((clip) => (clip.chain ? { ...clip, chain: bare(clip.chain) } : clip));
  return { ...track, chain: bare(track.chain), clips };
}

/** Third octaves: as it is (graphite), the other one (ochre), as it would be (teal). */
function Spectra({ found: { own, reference, bands }, sampleRateHz }: { readonly found: Found; readonly sampleRateHz: number }) {
  const within = (bandsOf: readonly ThirdOctave[]) => bandsOf.filter(({ hz }) => hz >= AXIS.lowHz && hz <= AXIS.highHz);
  const mean = (list: readonly ThirdOctave[]): number => list.reduce((sum, { dbfs }) => sum + dbfs, 0) / Math.max(1, list.length);
  const after = own.map(({ hz, dbfs }) => ({ hz, dbfs: dbfs + toneGainDb(bands, hz, sampleRateHz) }));
  const lines = [own, reference, after].map((list) => {
    const middle = mean(within(list));
    return within(list).map(({ hz, dbfs }) => ({ hz, dbfs: dbfs - middle }));
  });
  const top = Math.max(...lines.flat().map(({ dbfs }) => dbfs)) + 2;
  const x = (hz: number): number => WIDTH * shareOfHz(AXIS, hz);
  const y = (db: number): number => Math.min(HEIGHT, (HEIGHT * (top - db)) / RANGE_DB);
  const path = (list: readonly ThirdOctave[]): string => list.map(({ hz, dbfs }) => `${x(hz).toFixed(1)},${y(dbfs).toFixed(1)}`).join(' ');
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 12}`}
      role="img"
      aria-label="Third octaves: as it is, the other one, as it would be"
      className="my-1 w-full rounded-sheet border border-faint bg-paper"
    >
      {[100, 300, 1000, 3000, 10_000].map((hz) => (
        <g key={hz}>
          <line x1={x(hz)} x2={x(hz)} y1={0} y2={HEIGHT} className="stroke-faint" />
          <text x={x(hz)} y={HEIGHT + 10} textAnchor="middle" className="fill-soft text-[9px]">
            {hz < 1000 ? hz : `${hz / 1000} k`}
          </text>
        </g>
      ))}
      <polyline points={path(lines[1]!)} fill="none" className="stroke-practice" strokeWidth={4} />
      <polyline points={path(lines[0]!)} fill="none" className="stroke-source" strokeWidth={1} />
      <polyline points={path(lines[2]!)} fill="none" className="stroke-result" strokeWidth={1.8} />
    </svg>
  );
}
