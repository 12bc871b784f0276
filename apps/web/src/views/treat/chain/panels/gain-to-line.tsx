import { treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import { pointsOf, type Track } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { useKeys } from '../../../../shell/use-keys.js';
import { changed } from '../../../../store/listening-slice.js';
import { edited } from '../../../../store/session-slice.js';
import { useAppDispatch } from '../../../../store/store.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';

/** A line that is drawn by hand follows no closer than this. */
const TOLERANCE_DB = 0.3;

interface Props {
  readonly track: Track;
  readonly settings: TreatmentSettings;
}

/** Makes a gain line of what a treatment does to the level: from then on it is moved by hand, point by point. */
export function GainToLine({ track, settings }: Props) {
  const { passage } = useWorkbench();
  const dispatch = useAppDispatch();
  const [working, setWorking] = useState(false);
  const { title } = treatmentOf(settings.kind);
  const make = async (): Promise<void> => {
    if (working || settings.bypassed) return;
    setWorking(true);
    try {
      const trace = await passage.gainTrace(settings.id!);
      if (!trace) return void toast(`${title} is still being set up; a moment.`, { id: 'gain-line' });
      const points = pointsOf(trace, TOLERANCE_DB);
      if (points.length === 0) return void toast('Nothing sounds here that a gain could be told of.', { id: 'gain-line' });
      dispatch(edited({ type: 'gain-to-line', trackId: track.id, treatmentId: settings.id!, title, points }));
      dispatch(changed({ openTreatmentId: null, chosenClip: track.clips[0]!.id }));
      toast(`${title} is a gain line of ${points.length} points now, on the result strip. Ctrl Z gives the treatment back.`, {
        id: 'gain-line',
      });
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'gain-line' });
    } finally {
      setWorking(false);
    }
  };
  useKeys('shift_g', () => void make());
  return (
    <button
      type="button"
      className="press py-0!"
      disabled={working || settings.bypassed}
      title="What it does becomes points that are moved by hand; the treatment goes"
      onClick={() => void make()}
    >
      {working ? 'Following it …' : 'Make it a gain line'} <span className="key">⇧G</span>
    </button>
  );
}
