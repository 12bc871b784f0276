import { formatNumber } from '../../../../components/figures.js';
import { toast } from 'sonner';
import { changed } from '../../../../store/listening-slice.js';
import { edited } from '../../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../../store/store.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import type { PanelProps } from './panel.js';

const LONGEST_SECONDS = 5;
const USUAL_DB = 10;

/** A box on the spectrogram: the rest of the noise in it is profiled by itself, and lowered there alone. */
export function SecondPass({ track, settings }: Pick<PanelProps, 'track' | 'settings'>) {
  const { sampleRateHz, places } = useWorkbench();
  const selection = useApp(({ listening }) => listening.selection);
  const band = useApp(({ listening }) => listening.band);
  const dispatch = useAppDispatch();
  if (!selection || !band) return null;
  const seconds = (selection.endFrame - selection.startFrame) / sampleRateHz;
  const add = (): void => {
    if (seconds > LONGEST_SECONDS)
      return void toast.error(
        `A second pass takes a box of up to ${LONGEST_SECONDS} s; ${formatNumber(seconds, 1)} s are selected. Select less.`,
      );
    const recorded = places.recordedSeconds(selection);
    if (!recorded) return;
    const spot = { way: 'noise', ...recorded, lowHz: Math.round(band.lowHz), highHz: Math.round(band.highHz), reductionDb: USUAL_DB };
    dispatch(edited({ type: 'add-spot', trackId: track.id, afterId: settings.id!, treatmentId: crypto.randomUUID(), spot }));
    dispatch(changed({ selection: null, band: null }));
    toast(`What remains in this box is profiled by itself and lowered by ${USUAL_DB} dB more. Its depth is set in Spots.`, {
      id: 'second-pass',
    });
  };
  return (
    <div className="mt-1 flex items-center gap-2 rounded-sheet border border-focus px-2 py-1 text-[12px]">
      <span className="grow">
        {formatNumber(seconds, 2)} s, {formatNumber(band.lowHz, 0)}–{formatNumber(band.highHz, 0)} Hz
      </span>
      <button type="button" className="press py-0!" title="Profiles what remains in the box and lowers it there alone" onClick={add}>
        Second pass here
      </button>
    </div>
  );
}
