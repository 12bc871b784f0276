import type { Mark } from '@euphonos/engine';
import { toast } from 'sonner';
import { changed } from '../../../store/listening-slice.js';
import { activeTrack, edited } from '../../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../../store/store.js';
import { useWorkbench } from '../../../workbench/workbench-context.js';

/** This near to a mark is at it, seconds. */
const AT_SECONDS = 0.05;

/** Marks of the session and what is done with them. */
export function useMarks() {
  const marks = useApp(({ session }) => session!.history!.present.marks);
  const dispatch = useAppDispatch();
  const { player, view, sampleRateHz, lengthFrames } = useWorkbench();
  const edit = (next: Parameters<typeof edited>[0]): void => {
    try {
      dispatch(edited(next));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  /** The selection becomes a named span; without one the playhead a mark. */
  const add = (): string => {
    const { selection } = store.getState().listening;
    const id = crypto.randomUUID();
    const count = store.getState().session!.history!.present.marks.length + 1;
    edit({
      type: 'add-mark',
      mark: {
        id,
        name: selection ? `Span ${count}` : `Mark ${count}`,
        startFrame: selection?.startFrame ?? player.frame,
        endFrame: selection?.endFrame ?? null,
        note: '',
      },
    });
    return id;
  };
  const goTo = ({ startFrame, endFrame }: Mark): void => {
    player.seek(startFrame);
    if (endFrame !== null) view.show(startFrame, endFrame);
    else if (startFrame < view.startFrame || startFrame >= view.endFrame) view.scroll(view.pxAt(startFrame) - view.widthPx / 2);
  };
  const step = (by: 1 | -1): void => {
    const near = AT_SECONDS * sampleRateHz;
    const next =
      by > 0
        ? marks.find(({ startFrame }) => startFrame > player.frame + near)
        : [...marks].reverse().find(({ startFrame }) => startFrame < player.frame - near);
    if (next) goTo(next);
  };
  /** A named span repeats, on the track at work as far as it goes. */
  const loop = ({ startFrame, endFrame }: Mark): void => {
    const track = activeTrack(store.getState().session)!;
    if (endFrame === null) return;
    const end = Math.min(endFrame, lengthFrames);
    if (end <= startFrame) return void toast.error(`${track.name} has ended before this span begins; go to a track that sounds there.`);
    edit({ type: 'set-loop', trackId: track.id, span: { startFrame, endFrame: end } });
    dispatch(changed({ looping: true }));
    player.seek(startFrame);
  };
  const set = (id: string, change: Partial<Omit<Mark, 'id'>>): void => edit({ type: 'set-mark', id, set: change });
  const remove = (id: string): void => edit({ type: 'remove-mark', id });
  return { marks, add, goTo, step, loop, set, remove };
}
