import type { Lane } from '@euphonos/engine';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useCallback, useSyncExternalStore } from 'react';
import { Canvas, type Draw } from '../../drawing/canvas.js';
import { runsIn } from '../../drawing/runs.js';
import { drawEdges } from '../../drawing/draw-clips.js';
import { drawStrip } from '../../drawing/draw-strip.js';
import { formatDb } from '../../components/figures.js';
import { MOST_TREATED_SECONDS } from '../../passage/pictures.js';
import { laneFolded } from '../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useFigures, useTrackSound, useWorkbench } from '../../workbench/workbench-context.js';
import { laneTitle } from '../listening-bar/listening-bar.js';
import { GainLine } from './clips/gain-line.js';
import { GainDrawn } from './gain-drawn.js';
import { placeOf, Scale } from './scale.js';
import { useView } from './use-view.js';
import { VoiceLosses } from './voice-losses.js';

const ink: Record<Lane, string> = { source: 'text-source', removed: 'text-removed', result: 'text-result' };

/** The band of the selection on a spectrogram, and the spots that are set. */
function Box() {
  const { view, sampleRateHz } = useWorkbench();
  const { band, selection, axis, picture } = useApp((state) => state.listening);
  useView(view);
  if (!band || !selection || picture !== 'spectrogram') return null;
  const top = placeOf(band.highHz, sampleRateHz / 2, axis) * 100;
  const left = view.pxAt(selection.startFrame);
  return (
    <i
      aria-hidden
      data-box
      className="pointer-events-none absolute z-[1] border-2 border-focus bg-focus/20"
      style={{
        left,
        width: view.pxAt(selection.endFrame) - left,
        top: `${top}%`,
        height: `${placeOf(Math.max(band.lowHz, 1), sampleRateHz / 2, axis) * 100 - top}%`,
      }}
    />
  );
}

/** One lane over time, with its name and its one telling figure. */
export function Strip({ lane }: { readonly lane: Lane }) {
  const workbench = useWorkbench();
  const { reel } = workbench;
  const { view, pictures, bitmaps, onPictures } = workbench;
  const listening = useApp((state) => state.listening);
  const { clips, roomTone } = useTrackSound();
  const dispatch = useAppDispatch();
  const figures = useFigures();
  const shown = useSyncExternalStore(view.subscribe, () => pictures.shows(lane, view.spanFrames));
  const draw = useCallback<Draw>(
    (pen, width, height) => {
      pictures.startFrame(lane);
      drawStrip(
        pen,
        lane,
        width,
        height,
        view,
        runsIn(clips, roomTone, view.startFrame, view.endFrame, view.framesPerPx),
        pictures,
        bitmaps,
        listening,
      );
      drawEdges(pen, height, view, clips, reel);
      pictures.endFrame();
    },
    [lane, view, pictures, bitmaps, listening, clips, roomTone, reel],
  );
  const subscribe = useCallback(
    (redraw: () => void) => {
      const stops = [view.subscribe(redraw), onPictures(redraw)];
      return () => stops.forEach((stop) => stop());
    },
    [view, onPictures],
  );

  const folded = listening.folded[lane];
  const telling = {
    source: `floor ${formatDb(figures?.source.noiseFloorDbfs, 'dBFS')}`,
    removed: `${formatDb(figures?.removed.noiseFloorDbfs, 'dBFS')} in the gaps`,
    result: `gap ${formatDb(figures?.result.noiseFloorDbfs, 'dBFS')}`,
  }[lane];
  return (
    <section
      aria-label={laneTitle[lane]}
      data-lane={lane}
      className={`relative overflow-hidden rounded-sheet border border-line bg-sheet ${folded ? 'h-[26px] shrink-0' : 'min-h-[60px] flex-1'}`}
    >
      {!folded && (
        <>
          <Canvas draw={draw} subscribe={subscribe} label={`${laneTitle[lane]}, ${listening.picture}`} />
          {listening.band && listening.selection && <Box />}
          {lane === 'removed' && <VoiceLosses />}
          {lane === 'result' && <GainDrawn />}
          {lane === 'result' && <GainLine />}
          {shown ? (
            <Scale sampleRateHz={workbench.sampleRateHz} style={listening} />
          ) : (
            <p className="absolute inset-0 m-0 grid place-items-center px-6 text-center text-soft">
              Closer, please: what is removed and what remains is drawn for up to {MOST_TREATED_SECONDS / 60} minutes at a time. It sounds
              everywhere.
            </p>
          )}
        </>
      )}
      <button
        type="button"
        data-on-strip
        onClick={() => dispatch(laneFolded(lane))}
        aria-expanded={!folded}
        className={`absolute left-0 top-0 z-10 flex items-center gap-1.5 rounded-br-sheet border-b border-r border-line bg-sheet px-1.5 py-[2px] ${ink[lane]}`}
      >
        {folded ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
        <b className="font-semibold">{laneTitle[lane]}</b>{' '}
        <span className="text-soft" data-telling={lane}>
          {telling}
        </span>
      </button>
    </section>
  );
}
