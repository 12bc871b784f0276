import { clipAfter, clipEnd, clipFrames, touch, type Clip } from '@euphonos/engine';
import { useCallback, useRef, useState, type PointerEvent } from 'react';
import { Canvas, type Draw } from '../../../drawing/canvas.js';
import { drawClips, fadeHandles, HANDLE_PX } from '../../../drawing/draw-clips.js';
import { changed } from '../../../store/listening-slice.js';
import { store, useApp, useAppDispatch } from '../../../store/store.js';
import { useTrackSound, useWorkbench } from '../../../workbench/workbench-context.js';
import { useChosenClips } from './use-chosen-clips.js';
import { useClipEdits } from './use-clip-edits.js';

/** An edge is taken from this near, and goes to another edge or the playhead from this near. */
const EDGE_PX = 5;
const CLICK_PX = 3;

/** Fades are dragged in the upper part of the line. */
const FADES_PX = 9;

/** What the pointer has hold of: an edge, a fade, or a whole clip. */
type Grip = { readonly clip: Clip; readonly part: 'start' | 'end' | 'fade-in' | 'fade-out' | 'body'; readonly fromPx: number };

/** The clips of the track in their line: choose one, drag its edges and fades, drag it into free room. */
export function ClipRow() {
  const { view, player, sampleRateHz, reel } = useWorkbench();
  const { clips } = useTrackSound();
  const chosen = useApp(({ listening }) => listening.chosenClip);
  const also = useApp(({ listening }) => listening.alsoChosen);
  const dispatch = useAppDispatch();
  const { edit, snapped } = useClipEdits();
  const { chooseAlso, chooseTo } = useChosenClips();
  const ref = useRef<HTMLDivElement>(null);
  const grip = useRef<Grip | null>(null);
  const [ghostPx, setGhostPx] = useState<number | null>(null);
  const draw = useCallback<Draw>(
    (pen, width, height) =>
      drawClips(pen, width, height, view, clips, new Set(chosen === null ? [] : [chosen, ...also]), sampleRateHz, reel),
    [view, clips, chosen, also, sampleRateHz, reel],
  );
  const pxOf = (event: PointerEvent): number => event.clientX - ref.current!.getBoundingClientRect().left;
  const yOf = (event: PointerEvent): number => event.clientY - ref.current!.getBoundingClientRect().top;

  /** A fade of the clip that is worked on. */
  const fadeAt = (px: number, y: number): Grip | null => {
    const i = clips.findIndex(({ id }) => id === chosen);
    if (i < 0 || y > FADES_PX) return null;
    const { inPx, outPx } = fadeHandles(clips, i, view);
    if (Math.abs(px - inPx) <= HANDLE_PX + 2) return { clip: clips[i]!, part: 'fade-in', fromPx: px };
    return outPx !== null && Math.abs(px - outPx) <= HANDLE_PX + 2 ? { clip: clips[i]!, part: 'fade-out', fromPx: px } : null;
  };
  /** A fade follows the pointer; that of a joint lies half before it. */
  const dragFade = ({ clip, part }: Grip, px: number): void => {
    const i = clips.findIndex(({ id }) => id === clip.id);
    const before = clips[i - 1];
    const at = Math.max(0, part === 'fade-in' ? view.frameAt(px) - clip.startFrame : clipEnd(clip) - view.frameAt(px));
    const frames = Math.round(part === 'fade-in' && before && touch(before, clip) ? 2 * at : at);
    edit({
      type: 'shape-clip',
      clipId: clip.id,
      shape: part === 'fade-in' ? { fadeIn: { ...clip.fadeIn, frames } } : { fadeOut: { ...clip.fadeOut, frames } },
    });
  };
  const gripAt = (px: number, y: number): Grip | null => {
    const fade = fadeAt(px, y);
    if (fade) return fade;
    const at = clipAfter(clips, view.frameAt(px));
    const near = [clips[at - 1], clips[at], clips[at + 1]].filter((clip): clip is Clip => clip !== undefined);
    const edges = near.flatMap((clip) => [
      { clip, part: 'start' as const, px: view.pxAt(clip.startFrame) },
      { clip, part: 'end' as const, px: view.pxAt(clipEnd(clip)) },
    ]);
    // Of a joint the clip after it is held.
    const [edge] = edges
      .filter((one) => Math.abs(one.px - px) <= EDGE_PX)
      .sort((a, b) => Math.abs(a.px - px) - Math.abs(b.px - px) || (a.part === 'start' ? -1 : 1));
    if (edge) return { clip: edge.clip, part: edge.part, fromPx: px };
    const clip = clips[at];
    return clip && clip.startFrame <= view.frameAt(px) ? { clip, part: 'body', fromPx: px } : null;
  };
  /** Other edges, the playhead and the selection draw what is dragged to them. */
  const drawn = (frame: number, besides: Clip): number => {
    const { selection, snapping } = store.getState().listening;
    if (!snapping) return frame;
    const at = clipAfter(clips, frame);
    const edges = [clips[at - 1], clips[at], clips[at + 1]].flatMap((clip) =>
      clip && clip !== besides ? [clip.startFrame, clipEnd(clip)] : [],
    );
    const all = [...edges, player.frame, ...(selection ? [selection.startFrame, selection.endFrame] : [])];
    const [nearest] = all.sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame));
    return nearest !== undefined && Math.abs(nearest - frame) <= EDGE_PX * view.framesPerPx ? nearest : frame;
  };

  const onPointerDown = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0 || (event.target as HTMLElement).closest('[data-on-strip]')) return;
    const found = gripAt(pxOf(event), yOf(event));
    if (found && (event.ctrlKey || event.metaKey)) return chooseAlso(found.clip.id);
    if (found && event.shiftKey) return chooseTo(found.clip.id);
    grip.current = found;
    // One of several that is taken hold of takes the others along.
    if (found && also.includes(found.clip.id) && found.part === 'body') return event.currentTarget.setPointerCapture(event.pointerId);
    dispatch(changed({ chosenClip: grip.current?.clip.id ?? null }));
    if (grip.current) event.currentTarget.setPointerCapture(event.pointerId);
  };
  const onPointerMove = (event: PointerEvent<HTMLDivElement>): void => {
    const px = pxOf(event);
    const held = grip.current;
    if (!held)
      ref.current!.style.cursor = {
        start: 'ew-resize',
        end: 'ew-resize',
        'fade-in': 'col-resize',
        'fade-out': 'col-resize',
        body: 'pointer',
        none: 'default',
      }[gripAt(px, yOf(event))?.part ?? 'none'];
    else if (held.part === 'fade-in' || held.part === 'fade-out') dragFade(held, px);
    else if (Math.abs(px - held.fromPx) >= CLICK_PX) setGhostPx(px);
  };
  const onPointerUp = (event: PointerEvent<HTMLDivElement>): void => {
    const held = grip.current;
    const px = pxOf(event);
    grip.current = null;
    setGhostPx(null);
    if (!held || held.part === 'fade-in' || held.part === 'fade-out' || Math.abs(px - held.fromPx) < CLICK_PX) return;
    const wished = view.frameAt(px);
    const { clip, part } = held;
    if (part === 'body')
      return void edit({
        type: 'move-clips',
        clipIds: also.includes(clip.id) || (clip.id === chosen && also.length > 0) ? [chosen!, ...also] : [clip.id],
        byFrames: drawn(clip.startFrame + wished - view.frameAt(held.fromPx), clip) - clip.startFrame,
      });
    const near = drawn(wished, clip);
    const put = (toFrame: number): void =>
      void edit(
        part === 'start' ? { type: 'move-joint', clipId: clip.id, toFrame } : { type: 'trim-clip', clipId: clip.id, edge: 'end', toFrame },
      );
    if (near !== wished) put(near);
    else void snapped([wished]).then(([frame]) => put(frame!));
  };

  return (
    <div
      ref={ref}
      data-clips={clips.length}
      className="relative h-[24px] shrink-0 touch-none select-none"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onDoubleClick={() => {
        const clip = clips.find(({ id }) => id === chosen);
        if (clip) view.show(clip.startFrame - 0.1 * clipFrames(clip), clipEnd(clip) + 0.1 * clipFrames(clip));
      }}
    >
      <Canvas draw={draw} subscribe={view.subscribe} label={`${clips.length === 1 ? '1 clip' : `${clips.length} clips`} on the track`} />
      {ghostPx !== null && <i aria-hidden className="pointer-events-none absolute inset-y-0 w-[2px] bg-focus" style={{ left: ghostPx }} />}
    </div>
  );
}
