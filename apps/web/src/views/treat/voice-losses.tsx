import type { Span } from '@euphonos/engine';
import { setMinus } from '../../components/figures.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { usePriceIfMeasured, useWorkbench } from '../../workbench/workbench-context.js';
import { useView } from './use-view.js';

const MOST = 60;
const AROUND_SECONDS = 0.6;

/** Selects a place where the voice is touched, with a little around it, and shows it. */
export function useShowLoss() {
  const { view, sampleRateHz, lengthFrames } = useWorkbench();
  const dispatch = useAppDispatch();
  return ({ startFrame, endFrame }: Span): void => {
    const around = Math.round(AROUND_SECONDS * sampleRateHz);
    dispatch(
      changed({
        selection: { startFrame: Math.max(0, startFrame - around / 4), endFrame: Math.min(lengthFrames, endFrame + around / 4) },
        band: null,
        candidate: null,
      }),
    );
    view.show(startFrame - 3 * around, endFrame + 3 * around);
  };
}

/** On the removed strip: where words are heard in it, while noise reduction is open. A click selects the place. */
export function VoiceLosses() {
  const { view } = useWorkbench();
  const openId = useApp(({ session, listening }) => {
    const open = activeTrack(session)?.chain.treatments.find(({ id }) => id === listening.openTreatmentId);
    return open?.kind === 'noise-reduction' && !open.bypassed ? open.id! : '';
  });
  const price = usePriceIfMeasured(openId);
  const show = useShowLoss();
  useView(view);
  const losses = (price?.losses ?? [])
    .filter(({ startFrame, endFrame }) => endFrame > view.startFrame && startFrame < view.endFrame)
    .slice(0, MOST);
  return losses.map((loss) => {
    const left = Math.max(0, view.pxAt(loss.startFrame));
    return (
      <button
        key={loss.startFrame}
        type="button"
        data-on-strip
        data-voice-loss
        title={setMinus(`The voice is heard in what is removed: ${loss.lossDb.toFixed(0)} dB of it. Click to select the place.`)}
        aria-label={setMinus(`Voice in what is removed, ${loss.lossDb.toFixed(0)} dB`)}
        className="absolute bottom-0 z-10 h-[9px] border border-b-0 border-removed bg-removed/60 hover:bg-removed"
        style={{ left, width: Math.max(4, view.pxAt(loss.endFrame) - left) }}
        onClick={() => show(loss)}
      />
    );
  });
}
