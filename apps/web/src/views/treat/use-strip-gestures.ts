import { MIN_NOISE_SECONDS } from '@euphonos/dsp';
import { noiseSpans, withSpans, type Span } from '@euphonos/engine';
import { useEffect, useRef, type PointerEvent, type RefObject } from 'react';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { store, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { hzAt } from './scale.js';

/** A movement under this is a click. */
const CLICK_PX = 3;
/** An edge is taken from this near. */
const EDGE_PX = 5;
const ZOOM_PER_NOTCH = 1.18;
/** Less of a strip's height than this is no band. */
const LEAST_BOX = 0.08;

interface Drag {
  readonly startPx: number;
  readonly anchorFrame: number;
  /** The selection, the loop, or the noise passage of that number. */
  readonly of: 'selection' | 'loop' | number;
  moved: boolean;
  /** The strip on which a box is drawn, and where it began; null when only time is selected. */
  box?: { readonly top: number; readonly height: number; readonly startY: number } | null;
}

/** Drag selects (or moves an edge), click sets the playhead, wheel zooms and scrolls. */
export function useStripGestures(ref: RefObject<HTMLDivElement | null>) {
  const workbench = useWorkbench();
  const { view, player, sampleRateHz } = workbench;
  const dispatch = useAppDispatch();
  const drag = useRef<Drag | null>(null);
  const pxOf = (event: { clientX: number }): number => event.clientX - ref.current!.getBoundingClientRect().left;

  useEffect(() => {
    const element = ref.current!;
    const onWheel = (event: WheelEvent): void => {
      event.preventDefault();
      const sideways = event.shiftKey ? event.deltaY || event.deltaX : Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : 0;
      if (sideways) view.scroll(sideways);
      else view.zoom(ZOOM_PER_NOTCH ** (event.deltaY / 100), pxOf(event));
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  });

  /** The edge under the pointer: of which span, and the edge opposite to it. */
  const edgeAt = (px: number): Omit<Drag, 'startPx' | 'moved'> | null => {
    const { selection } = store.getState().listening;
    const track = activeTrack(store.getState().session);
    const passages = track ? noiseSpans(track).flatMap((span, i) => workbench.places.of(span).map((place) => [i, place] as const)) : [];
    for (const [of, span] of [['selection', selection], ['loop', track?.loop], ...passages] as const) {
      if (!span) continue;
      if (Math.abs(view.pxAt(span.startFrame) - px) <= EDGE_PX) return { of, anchorFrame: span.endFrame };
      if (Math.abs(view.pxAt(span.endFrame) - px) <= EDGE_PX) return { of, anchorFrame: span.startFrame };
    }
    return null;
  };

  /** With spots or noise reduction open, a drag on a spectrogram draws a box of time and frequency. */
  const boxAt = (event: PointerEvent<HTMLDivElement>): Drag['box'] => {
    const { listening, session } = store.getState();
    const open = activeTrack(session)?.chain.treatments.find(({ id }) => id === listening.openTreatmentId);
    const strip = (event.target as HTMLElement).closest('[data-lane]');
    if (listening.picture !== 'spectrogram' || (open?.kind !== 'spots' && open?.kind !== 'noise-reduction') || !strip) return null;
    const { top, height } = strip.getBoundingClientRect();
    return { top, height, startY: event.clientY };
  };
  /** A flat box means a stretch of time. */
  const bandOf = (box: NonNullable<Drag['box']>, y: number): { lowHz: number; highHz: number } | null => {
    if (Math.abs(y - box.startY) < LEAST_BOX * box.height) return null;
    const { axis } = store.getState().listening;
    const at = (clientY: number): number => hzAt((clientY - box.top) / box.height, sampleRateHz / 2, axis);
    return { lowHz: at(Math.max(y, box.startY)), highHz: at(Math.min(y, box.startY)) };
  };

  const onPointerDown = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0 || (event.target as HTMLElement).closest('[data-on-strip]')) return;
    (document.activeElement as HTMLElement | null)?.blur();
    event.currentTarget.setPointerCapture(event.pointerId);
    const px = pxOf(event);
    const edge = edgeAt(px);
    drag.current = edge
      ? { ...edge, startPx: px, moved: true }
      : { of: 'selection', anchorFrame: Math.round(view.frameAt(px)), startPx: px, moved: false, box: boxAt(event) ?? null };
  };

  const onPointerMove = (event: PointerEvent<HTMLDivElement>): void => {
    const px = pxOf(event);
    const now = drag.current;
    if (!now) {
      ref.current!.style.cursor = edgeAt(px) ? 'ew-resize' : 'crosshair';
      return;
    }
    if (!now.moved && Math.abs(px - now.startPx) < CLICK_PX) return;
    now.moved = true;
    const frame = Math.max(0, Math.min(workbench.lengthFrames, Math.round(view.frameAt(px))));
    const span: Span = { startFrame: Math.min(frame, now.anchorFrame), endFrame: Math.max(frame, now.anchorFrame) };
    if (span.endFrame - span.startFrame < 2) return;
    if (now.of === 'selection') dispatch(changed({ selection: span, band: now.box ? bandOf(now.box, event.clientY) : null }));
    else if (typeof now.of === 'number') movePassage(now.of, span);
    else dispatch(edited({ type: 'set-loop', trackId: activeTrack(store.getState().session)!.id, span }));
  };

  /** An edge of a noise passage follows, as long as the passage stays clear of its neighbours and long enough. */
  const movePassage = (index: number, placed: Span): void => {
    const [span, more] = workbench.places.recorded(placed);
    if (!span || more) return;
    const track = activeTrack(store.getState().session)!;
    const spans = noiseSpans(track);
    const clear = spans.every((other, i) => i === index || span.endFrame < other.startFrame || span.startFrame > other.endFrame);
    if (!clear || span.endFrame - span.startFrame < MIN_NOISE_SECONDS * sampleRateHz) return;
    dispatch(
      edited({
        type: 'set-noise',
        trackId: track.id,
        noise: withSpans(
          track.noise,
          spans.map((other, i) => (i === index ? span : other)),
        ),
      }),
    );
  };

  const onPointerUp = (event: PointerEvent<HTMLDivElement>): void => {
    const now = drag.current;
    drag.current = null;
    if (!now || now.moved) return;
    const frame = Math.round(view.frameAt(pxOf(event)));
    const { selection } = store.getState().listening;
    if (selection && (frame < selection.startFrame || frame >= selection.endFrame)) dispatch(changed({ selection: null, band: null }));
    player.seek(frame);
  };

  return { onPointerDown, onPointerMove, onPointerUp };
}
