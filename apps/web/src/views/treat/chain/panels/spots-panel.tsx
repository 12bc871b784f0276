import { asSpots, type ListRow, type Spot } from '@euphonos/dsp';
import { X } from 'lucide-react';
import { toast } from 'sonner';
import { Choice } from '../../../../components/choice.js';
import { formatNumber, formatTime } from '../../../../components/figures.js';
import { Ruler } from '../../../../components/ruler.js';
import { changed } from '../../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../../store/store.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import type { PanelProps } from './panel.js';

const LONGEST_SECONDS = 5;

/** Spots from the selection on the spectrogram; each is lowered or replaced by what is around it. */
export function SpotsPanel({ settings, set }: PanelProps) {
  const { view, sampleRateHz, places } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const band = useApp(({ listening }) => listening.band);
  const dispatch = useAppDispatch();
  const spots = asSpots(settings['spots'] as readonly ListRow[]);
  const write = (next: readonly Spot[]): void => set('spots', next as unknown as readonly ListRow[]);
  const add = (way: Spot['way']): void => {
    const recorded = selection && places.recordedSeconds(selection);
    if (!recorded) return;
    const spot = {
      way,
      ...recorded,
      lowHz: Math.round(band?.lowHz ?? 0),
      highHz: Math.round(band?.highHz ?? Math.min(20000, sampleRateHz / 2)),
      reductionDb: 18,
    };
    if (spot.endSeconds - spot.startSeconds > LONGEST_SECONDS)
      return void toast.error(
        `A spot is up to ${LONGEST_SECONDS} s long; ${formatNumber(spot.endSeconds - spot.startSeconds, 1)} s are selected. Select less.`,
      );
    write([...spots, spot]);
    dispatch(changed({ selection: null, band: null }));
  };
  return (
    <div className="mb-1 text-[12px]">
      <p className="m-0 mb-1 text-soft">Drag a box on the spectrogram: its width is the time, its height the band.</p>
      <div className="mb-1 flex items-center gap-2">
        <span className="grow">
          {selection
            ? `${formatNumber((selection.endFrame - selection.startFrame) / sampleRateHz, 2)} s, ${band ? `${formatNumber(band.lowHz, 0)}–${formatNumber(band.highHz, 0)} Hz` : 'whole band'}`
            : 'nothing selected'}
        </span>
        <button type="button" className="press py-0!" disabled={!selection} onClick={() => add('lower')}>
          Lower it
        </button>
        <button type="button" className="press py-0!" disabled={!selection} onClick={() => add('replace')}>
          Replace it
        </button>
        <button
          type="button"
          className="press py-0!"
          disabled={!selection}
          title="Profiles the box itself and lowers its noise"
          onClick={() => add('noise')}
        >
          Its noise
        </button>
      </div>
      {spots.map((spot, i) => (
        <div key={`${spot.startSeconds}/${spot.lowHz}/${i}`} className="border-t border-faint py-1">
          <div className="flex items-center gap-3">
            <button
              type="button"
              className="underline decoration-dotted"
              title="Show it"
              onClick={() =>
                places
                  .ofSeconds(spot)
                  .slice(0, 1)
                  .forEach(({ startFrame, endFrame }) => view.show(startFrame - sampleRateHz / 2, endFrame + sampleRateHz / 2))
              }
            >
              {formatTime((places.ofSeconds(spot)[0]?.startFrame ?? spot.startSeconds * sampleRateHz) / sampleRateHz, 2)},{' '}
              {formatNumber(spot.endSeconds - spot.startSeconds, 2)} s
            </button>
            <span className="text-soft">
              {formatNumber(spot.lowHz, 0)}–{formatNumber(spot.highHz, 0)} Hz
            </span>
            <Choice
              label="Way"
              value={spot.way}
              choices={[
                { value: 'lower', title: 'lower' },
                { value: 'replace', title: 'replace' },
                { value: 'noise', title: 'noise', hint: 'Its own noise is profiled and lowered' },
              ]}
              onChange={(way) => write(spots.map((other, j) => (j === i ? { ...other, way } : other)))}
            />
            <button
              type="button"
              aria-label="Remove this spot"
              className="ml-auto text-soft hover:text-removed"
              onClick={() => write(spots.filter((_, j) => j !== i))}
            >
              <X size={13} />
            </button>
          </div>
          {spot.way !== 'replace' && (
            <Ruler
              title="Reduction"
              unit="dB"
              value={spot.reductionDb}
              min={0}
              max={80}
              step={0.5}
              scale="linear"
              practice={[6, 30]}
              usual={18}
              onChange={(reductionDb) => write(spots.map((other, j) => (j === i ? { ...other, reductionDb } : other)))}
            />
          )}
        </div>
      ))}
    </div>
  );
}
