import { clipEnd, offsetOf, partAt, type Clip, type Reel, type ReelPart, type Span } from '@euphonos/engine';
import { pageColour } from './inks.js';

/** Drawn from this level on; full height is 0 dBFS. */
const FLOOR_DBFS = -60;
const TALK_PX = 2;

/** The level of one recording on a reel, step by step, mean square. */
export interface PartLevels {
  readonly part: ReelPart;
  readonly stepFrames: number;
  readonly squares: Float32Array;
}

interface LaneDrawing {
  readonly clips: readonly Clip[];
  readonly reel: Reel;
  readonly levels: readonly PartLevels[];
  /** Where somebody talks, in frames of the session. */
  readonly talk: readonly Span[];
  readonly chosenClip: string | null;
  /** What the lane is as long as. */
  readonly lengthFrames: number;
  readonly faint: boolean;
}

/** A track at a glance: its level over the whole session, where its clips end, where somebody talks. */
export function drawLane(pen: CanvasRenderingContext2D, width: number, height: number, lane: LaneDrawing): void {
  const { clips, reel, levels, talk, chosenClip, lengthFrames, faint } = lane;
  pen.clearRect(0, 0, width, height);
  const framesPerPx = lengthFrames / Math.max(1, width);
  const px = (frame: number): number => frame / framesPerPx;
  const waveHeight = height - TALK_PX - 2;
  const middle = waveHeight / 2;
  pen.globalAlpha = faint ? 0.3 : 0.8;
  pen.fillStyle = pageColour('source');
  let lastPx = -1;
  for (const clip of clips) {
    const [from, to] = [px(clip.startFrame), px(clipEnd(clip))];
    if (clip.id === chosenClip) {
      pen.globalAlpha = 0.16;
      pen.fillStyle = pageColour('focus');
      pen.fillRect(from, 0, to - from, height);
      pen.globalAlpha = faint ? 0.3 : 0.8;
      pen.fillStyle = pageColour('source');
    }
    const startFrame = partAt(reel, clip.source.startFrame).startFrame;
    const found = levels.find(({ part }) => part.startFrame === startFrame);
    if (found && clip.sound.kind === 'recording')
      // A column that the clip before has drawn is not drawn over: ten thousand clips are then as many columns as there are pixels.
      for (let x = Math.max(Math.floor(from), lastPx + 1); x < to; x++) {
        const frame = x * framesPerPx + offsetOf(clip);
        const levelDb = loudest(found, frame - startFrame, framesPerPx) + clip.gainDb;
        const half = Math.max(0.5, middle * Math.min(1, Math.max(0, 1 - levelDb / FLOOR_DBFS) * 1.25));
        pen.fillRect(x, middle - half, 1, 2 * half);
        lastPx = x;
      }
    pen.fillRect(from, 0, 1, waveHeight);
  }
  pen.globalAlpha = faint ? 0.35 : 1;
  pen.fillStyle = pageColour('ink');
  for (const { startFrame, endFrame } of talk)
    pen.fillRect(px(startFrame), height - TALK_PX, Math.max(1, px(endFrame) - px(startFrame)), TALK_PX);
  pen.globalAlpha = 1;
}

/** The loudest step under a pixel, dBFS. */
function loudest({ squares, stepFrames }: PartLevels, frame: number, frames: number): number {
  const first = Math.max(0, Math.floor(frame / stepFrames));
  const last = Math.min(squares.length - 1, Math.floor((frame + frames) / stepFrames));
  let most = 1e-12;
  for (let i = first; i <= last; i++) if (squares[i]! > most) most = squares[i]!;
  return 10 * Math.log10(most);
}
