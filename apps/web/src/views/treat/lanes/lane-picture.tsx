import { clipAt, type Track } from '@euphonos/engine';
import { useCallback, useRef, type PointerEvent } from 'react';
import { Canvas, type Draw } from '../../../drawing/canvas.js';
import { drawLane } from '../../../drawing/draw-lane.js';
import { useLanePeaks } from './use-lane-peaks.js';
import { useTalk } from './use-talk.js';

/** A clip is taken to another lane once the pointer is so far above or below. */
const LANE_PX = 14;
const CLICK_PX = 3;

interface Props {
  readonly track: Track;
  readonly sampleRateHz: number;
  readonly lengthFrames: number;
  readonly heard: boolean;
  readonly chosenClip: string | null;
  /** A click at a frame; a drag sideways by frames; a clip dropped at a height of the screen. */
  readonly onClick: (frame: number, clipId: string | null) => void;
  readonly onScroll: (byFrames: number) => void;
  readonly onDrop: (clipId: string, clientY: number) => void;
  readonly onCarry: (clientY: number | null) => void;
}

/** The picture of a lane: click to go there, drag sideways to scroll, drag a clip up or down to take it to another lane. */
export function LanePicture(props: Props) {
  const { track, sampleRateHz, lengthFrames, heard, chosenClip } = props;
  const levels = useLanePeaks(track.reel);
  const talk = useTalk(track, sampleRateHz);
  const { clips, reel } = track;
  const held = useRef<{
    readonly x: number;
    readonly y: number;
    lastX: number;
    readonly clipId: string | null;
    way: 'none' | 'scroll' | 'carry';
  } | null>(null);
  const draw = useCallback<Draw>(
    (pen, width, height) => drawLane(pen, width, height, { clips, reel, levels, talk, chosenClip, lengthFrames, faint: !heard }),
    [clips, reel, levels, talk, chosenClip, lengthFrames, heard],
  );
  const framesPerPx = (element: Element): number => lengthFrames / Math.max(1, element.clientWidth);
  const frameOf = (event: PointerEvent): number =>
    (event.clientX - event.currentTarget.getBoundingClientRect().left) * framesPerPx(event.currentTarget);
  const onPointerDown = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const clip = clipAt(clips, Math.round(frameOf(event)));
    held.current = { x: event.clientX, y: event.clientY, lastX: event.clientX, clipId: clip?.id ?? null, way: 'none' };
  };
  const onPointerMove = (event: PointerEvent<HTMLDivElement>): void => {
    const now = held.current;
    if (!now) return;
    if (now.way === 'none') {
      if (now.clipId && Math.abs(event.clientY - now.y) > LANE_PX) now.way = 'carry';
      else if (Math.abs(event.clientX - now.x) > CLICK_PX && Math.abs(event.clientY - now.y) < LANE_PX / 2) now.way = 'scroll';
    }
    if (now.way === 'carry') props.onCarry(event.clientY);
    if (now.way !== 'scroll') return;
    props.onScroll((event.clientX - now.lastX) * framesPerPx(event.currentTarget));
    now.lastX = event.clientX;
  };
  const onPointerUp = (event: PointerEvent<HTMLDivElement>): void => {
    const now = held.current;
    held.current = null;
    props.onCarry(null);
    if (!now) return;
    if (now.way === 'carry') props.onDrop(now.clipId!, event.clientY);
    else if (now.way === 'none') props.onClick(Math.max(0, Math.round(frameOf(event))), now.clipId);
  };
  return (
    <div
      className="relative min-w-0 grow cursor-pointer touch-none"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => {
        held.current = null;
        props.onCarry(null);
      }}
    >
      <Canvas draw={draw} label={`${track.name}: level, clips, talk`} />
    </div>
  );
}
