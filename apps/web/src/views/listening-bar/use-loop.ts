import type { Span } from '@euphonos/engine';
import { toast } from 'sonner';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { store, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';

/** Loops the selection; without one, turns the loop on or off. */
export function useLoop(): () => void {
  const { player } = useWorkbench();
  const dispatch = useAppDispatch();

  /** Into a loop that does not hold the playhead; one that does goes on where it is. */
  const goInto = (loop: Span): void => {
    const { frame } = player;
    if (!player.playing || frame < loop.startFrame || frame >= loop.endFrame) player.seek(loop.startFrame);
  };

  return () => {
    const { listening, session } = store.getState();
    const track = activeTrack(session);
    if (!track) return;
    if (listening.selection) {
      dispatch(edited({ type: 'set-loop', trackId: track.id, span: listening.selection }));
      dispatch(changed({ looping: true, selection: null }));
      goInto(listening.selection);
    } else if (track.loop) {
      dispatch(changed({ looping: !listening.looping }));
      if (!listening.looping) goInto(track.loop);
    } else toast('Drag over a stretch first, then L loops it.');
  };
}
