import { endOf } from '@euphonos/engine';
import { changed, waveZoomed } from '../../store/listening-slice.js';
import { activeTrack, edited, redone, undone } from '../../store/session-slice.js';
import { store, useAppDispatch } from '../../store/store.js';
import { useKeys } from '../../shell/use-keys.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useCandidates } from './use-candidates.js';
import { usePassages } from './use-passages.js';

const ZOOM = 1.5;
const SCROLL_SHARE = 0.15;

/** The keys of the Treat view; those of the listening bar and of the rulers are with them. */
export function useTreatKeys(): void {
  const { view, player } = useWorkbench();
  const dispatch = useAppDispatch();
  const { takeNoise, audition } = usePassages();
  const { step } = useCandidates();
  const listening = () => store.getState().listening;
  const track = () => activeTrack(store.getState().session);

  const zoom = (factor: number): void => {
    const px = view.pxAt(player.frame);
    view.zoom(factor, px >= 0 && px <= view.widthPx ? px : view.widthPx / 2);
  };
  const lower = (by: 1 | -1): void => {
    if (listening().picture === 'wave') dispatch(waveZoomed(by));
    else dispatch(changed({ inkFloorDbfs: Math.max(-120, Math.min(-60, listening().inkFloorDbfs - 6 * by)) }));
  };
  const show = (): void => {
    const several = (store.getState().session?.history?.present.tracks.length ?? 1) > 1;
    const clips = track()?.clips ?? [];
    // Of several tracks the one at work, which may be a small part of the session.
    const own = several && clips.length > 0 ? { startFrame: clips[0]!.startFrame, endFrame: endOf(clips) } : null;
    const span = listening().selection ?? (listening().looping ? track()?.loop : null) ?? own;
    if (span && Math.abs(view.spanFrames / (span.endFrame - span.startFrame) - 1.08) > 0.01) view.show(span.startFrame, span.endFrame);
    else view.showAll();
  };
  const humAt = (baseHz: number): void => {
    const found = track()?.chain.treatments.find(({ kind, id }) => kind === 'hum-notch' && id !== undefined);
    if (found) dispatch(edited({ type: 'set-parameter', trackId: track()!.id, treatmentId: found.id!, name: 'baseHz', value: baseHz }));
  };
  const bypass = (): void => {
    const open = track()?.chain.treatments.find(({ id }) => id === listening().openTreatmentId);
    if (open) dispatch(edited({ type: 'bypass-treatment', trackId: track()!.id, treatmentId: open.id!, bypassed: !open.bypassed }));
  };

  const alone = (): void => {
    const { openTreatmentId, aside } = listening();
    const open = track()?.chain.treatments.find(({ id, bypassed }) => id === openTreatmentId && !bypassed);
    dispatch(changed({ aside: aside || !open ? null : { treatmentId: open.id! } }));
  };
  useKeys('s', alone);
  useKeys('n', () => void takeNoise());
  useKeys('shift_n', () => void takeNoise('besides'));
  useKeys('h', audition);
  useKeys('c', () => step(1));
  useKeys('shift_c', () => step(-1));
  useKeys('w', () => dispatch(changed({ picture: listening().picture === 'wave' ? 'spectrogram' : 'wave' })));
  useKeys('f', show);
  useKeys('escape', () => dispatch(changed({ selection: null, band: null, aside: null, candidate: null, chosenClip: null })));
  useKeys('+ shift_+ =', () => zoom(1 / ZOOM));
  useKeys('-', () => zoom(ZOOM));
  useKeys('left', () => view.scroll(-SCROLL_SHARE * view.widthPx));
  useKeys('right', () => view.scroll(SCROLL_SHARE * view.widthPx));
  useKeys(',', () => lower(-1));
  useKeys('.', () => lower(1));
  useKeys('5', () => humAt(50));
  useKeys('6', () => humAt(60));
  useKeys('b', bypass);
  useKeys('mod_z', () => dispatch(undone()), { preventDefault: true });
  useKeys('mod_shift_z mod_y', () => dispatch(redone()), { preventDefault: true });
}
