import type { TimeView } from '../drawing/time-view.js';
import type { Workbench } from './workbench.js';

/** Where a session is seen and heard, whatever track is worked on. */
export interface Place {
  readonly view: Pick<TimeView, 'startFrame' | 'framesPerPx' | 'widthPx'>;
  readonly frame: number;
  readonly playing: boolean;
}

export function placeOf({ view: { startFrame, framesPerPx, widthPx }, player }: Workbench): Place {
  return { view: { startFrame, framesPerPx, widthPx }, frame: player.frame, playing: player.playing };
}

/** Shows and plays a track where another one was shown and played. */
export function goOnAt(workbench: Workbench, { view, frame, playing }: Place, onTrouble: (error: unknown) => void): void {
  workbench.view.goTo(view);
  workbench.player.seek(frame);
  if (playing) workbench.player.play().catch(onTrouble);
}
