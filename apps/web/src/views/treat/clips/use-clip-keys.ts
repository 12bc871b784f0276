import { toast } from 'sonner';
import { useKeys } from '../../../shell/use-keys.js';
import { changed } from '../../../store/listening-slice.js';
import { store, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';
import { useChosenClips } from './use-chosen-clips.js';
import { useClipEdits } from './use-clip-edits.js';

const LEVEL_STEP_DB = 3;

/** The keys that cut, move and level. */
export function useClipKeys(): void {
  const { split, cut, silence, tone, level, giveBack, copy, cutOut, paste, step, nudge, shift, lift, edit } = useClipEdits();
  const { extend, chooseAll } = useChosenClips();
  const workbench = useWorkbench();
  const dispatch = useAppDispatch();
  const tell = (error: unknown): void => void toast.error(error instanceof Error ? error.message : String(error), { id: 'clips' });
  const on = (act: () => Promise<unknown>) => (): void => void act().catch(tell);
  useKeys('t', on(split));
  useKeys(
    'delete backspace',
    on(() => cut(true)),
    { preventDefault: true },
  );
  useKeys(
    'shift_delete shift_backspace',
    on(() => cut(false)),
    { preventDefault: true },
  );
  useKeys('m', on(silence));
  useKeys('r', on(tone));
  useKeys(
    'd',
    on(() => level(-LEVEL_STEP_DB)),
  );
  useKeys(
    'shift_d',
    on(() => level(LEVEL_STEP_DB)),
  );
  useKeys('g', giveBack);
  useKeys('mod_c', () => copy());
  useKeys('mod_x', on(cutOut), { preventDefault: true });
  useKeys('mod_v', on(paste), { preventDefault: true });
  useKeys('[', () => step(-1));
  useKeys(']', () => step(1));
  useKeys('{', () => extend(-1));
  useKeys('}', () => extend(1));
  useKeys('mod_a', chooseAll, { preventDefault: true });
  useKeys('alt_left', () => nudge(-1, false), { preventDefault: true });
  useKeys('alt_right', () => nudge(1, false), { preventDefault: true });
  useKeys('alt_shift_left', () => nudge(-1, true), { preventDefault: true });
  useKeys('alt_shift_right', () => nudge(1, true), { preventDefault: true });
  useKeys('shift_left', () => shift(-1), { preventDefault: true });
  useKeys('shift_right', () => shift(1), { preventDefault: true });
  useKeys('alt_up', () => lift(1), { preventDefault: true });
  useKeys('alt_down', () => lift(-1), { preventDefault: true });
  useKeys('z', () => dispatch(changed({ snapping: !store.getState().listening.snapping })));
  useKeys('shift_r', () => {
    const { selection } = store.getState().listening;
    if (!selection) return void toast('Drag over a stretch with noise alone first; Shift R makes room tone of it.', { id: 'clips' });
    const [recorded] = workbench.places.recorded(selection);
    if (recorded && edit({ type: 'set-room-tone', span: recorded }))
      toast(`Room tone is made of ${((recorded.endFrame - recorded.startFrame) / workbench.sampleRateHz).toFixed(2)} s of this room.`, {
        id: 'clips',
      });
  });
}
