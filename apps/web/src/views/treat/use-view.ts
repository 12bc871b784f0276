import { useSyncExternalStore } from 'react';
import type { TimeView } from '../../drawing/time-view.js';

/** Renders again whenever the view moves. */
export function useView(view: TimeView): TimeView {
  useSyncExternalStore(view.subscribe, () => `${view.startFrame}/${view.framesPerPx}/${view.widthPx}`);
  return view;
}
