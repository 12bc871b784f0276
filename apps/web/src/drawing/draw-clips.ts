import { clipAfter, clipEnd, partAt, partEnd, touch, type Clip, type Reel } from '@euphonos/engine';
import { pageColour } from './inks.js';
import type { TimeView } from './time-view.js';

type Pen = CanvasRenderingContext2D;

/** Narrower clips carry no words; closer edges are drawn as one. */
const WORDS_PX = 34;
const LEAST_APART_PX = 2.5;
/** Half of the width of what a fade is dragged by. */
export const HANDLE_PX = 4;
const DENSE_PX = 5;
/** Dashes for what does not sound; a wave for room tone. */
const WAVE_PX = 6;

/** Of one recording, however long. */
const ONE: Reel = [{ recordingId: '', channels: [0], startFrame: 0, frames: Infinity }];

/**
 * What is missing of the recording at a joint, in frames; 0 where it just goes on, negative where it goes back. Where another recording
 * begins: what is missing of both.
 */
export function cutFrames(before: Clip, after: Clip, reel: Reel = ONE): number {
  const [one, other] = [partAt(reel, before.source.startFrame), partAt(reel, after.source.startFrame)];
  return one === other
    ? after.source.startFrame - before.source.endFrame
    : partEnd(one) - before.source.endFrame + after.source.startFrame - other.startFrame;
}

/** What a clip is, in a word or two, for its place in the line; empty for one that is as it was. */
export function clipWords({ sound, gainDb, line }: Clip): string {
  const level = gainDb === 0 ? '' : `${gainDb > 0 ? '+' : '−'}${Math.abs(gainDb)} dB`;
  const kind = sound.kind === 'silence' ? 'silent' : sound.kind === 'room-tone' ? 'room tone' : '';
  return [kind, level, line.length > 0 ? 'line' : ''].filter(Boolean).join(' · ');
}

/** The line of clips: a stroke under each from edge to edge, a caret where something was cut, and what was done to it. */
export function drawClips(
  pen: Pen,
  width: number,
  height: number,
  view: TimeView,
  clips: readonly Clip[],
  chosen: ReadonlySet<string>,
  sampleRateHz: number,
  reel: Reel = ONE,
): void {
  pen.clearRect(0, 0, width, height);
  const base = height - 4.5;
  pen.font = '11px "Source Sans 3 Variable", sans-serif';
  pen.textBaseline = 'middle';
  let drawnTo = -Infinity;
  for (let i = clipAfter(clips, view.startFrame); i < clips.length && clips[i]!.startFrame < view.endFrame; i++) {
    const clip = clips[i]!;
    const left = view.pxAt(clip.startFrame);
    const right = view.pxAt(clipEnd(clip));
    const own = chosen.has(clip.id);
    if (right - drawnTo < LEAST_APART_PX && !own) continue;
    drawnTo = right;
    if (own) {
      pen.fillStyle = pageColour('focus');
      pen.globalAlpha = 0.14;
      pen.fillRect(Math.max(0, left), 0, Math.min(width, right) - Math.max(0, left), height);
      pen.globalAlpha = 1;
    }
    if (own) fades(pen, clips, i, view, base);
    stroke(pen, clip, Math.max(-10, left), Math.min(width + 10, right), base, own);
    edge(pen, clips[i - 1], clip, left, base, own, sampleRateHz, right - left, reel);
    const words = clipWords(clip);
    if (words && right - left > WORDS_PX) {
      pen.fillStyle = pageColour(clip.sound.kind === 'recording' ? 'result' : 'removed');
      const at = Math.max(6, left + 6);
      pen.save();
      pen.beginPath();
      pen.rect(at - 2, 0, right - at - 2, height);
      pen.clip();
      pen.fillText(words, at, base - 9);
      pen.restore();
    }
  }
}

/** Where the fades of a clip can be taken hold of: at the end of the fade in and at the beginning of the fade out; of a joint at half of its crossfade. */
export function fadeHandles(clips: readonly Clip[], i: number, view: TimeView): { readonly inPx: number; readonly outPx: number | null } {
  const clip = clips[i]!;
  const [before, after] = [clips[i - 1], clips[i + 1]];
  const half = before && touch(before, clip) ? 2 : 1;
  return {
    inPx: view.pxAt(clip.startFrame + clip.fadeIn.frames / half) + HANDLE_PX,
    outPx: after && touch(clip, after) ? null : view.pxAt(clipEnd(clip) - clip.fadeOut.frames) - HANDLE_PX,
  };
}

/** The slopes of the fades, with what they are dragged by. */
function fades(pen: Pen, clips: readonly Clip[], i: number, view: TimeView, base: number): void {
  const clip = clips[i]!;
  const { inPx, outPx } = fadeHandles(clips, i, view);
  pen.strokeStyle = pen.fillStyle = pageColour('focus');
  pen.lineWidth = 1;
  pen.beginPath();
  pen.moveTo(view.pxAt(clip.startFrame), base);
  pen.lineTo(inPx - HANDLE_PX, 4);
  if (outPx !== null) {
    pen.moveTo(view.pxAt(clipEnd(clip)), base);
    pen.lineTo(outPx + HANDLE_PX, 4);
  }
  pen.stroke();
  for (const x of outPx === null ? [inPx] : [inPx, outPx]) pen.fillRect(x - HANDLE_PX, 1, 2 * HANDLE_PX - 1, 6);
}

function stroke(pen: Pen, clip: Clip, left: number, right: number, base: number, own: boolean): void {
  pen.strokeStyle = pageColour(clip.sound.kind === 'recording' ? (own ? 'focus' : 'ink') : 'removed');
  pen.lineWidth = own ? 2 : 1;
  pen.setLineDash(clip.sound.kind === 'silence' ? [2, 4] : []);
  pen.beginPath();
  pen.moveTo(left + 1, base);
  if (clip.sound.kind === 'room-tone')
    for (let x = left + 1; x < right; x += WAVE_PX / 2) pen.lineTo(x, base + (Math.round((x - left) / (WAVE_PX / 2)) % 2 === 0 ? 0 : -3));
  else pen.lineTo(right - 1, base);
  pen.stroke();
  pen.setLineDash([]);
}

/** Where a clip begins: a short stroke; a caret, with the time that was taken, where something was cut. */
function edge(
  pen: Pen,
  before: Clip | undefined,
  clip: Clip,
  x: number,
  base: number,
  own: boolean,
  sampleRateHz: number,
  roomPx: number,
  reel: Reel,
): void {
  const headFrames = clip.source.startFrame - partAt(reel, clip.source.startFrame).startFrame;
  if (!before && clip.startFrame === 0 && headFrames === 0) return;
  const joined = before && touch(before, clip);
  const taken = joined ? cutFrames(before, clip, reel) : before ? 0 : headFrames;
  pen.strokeStyle = pageColour(own ? 'focus' : taken !== 0 ? 'removed' : 'ink');
  pen.lineWidth = own ? 2 : 1.25;
  pen.beginPath();
  if (taken !== 0) {
    pen.moveTo(x - 4, base + 3);
    pen.lineTo(x, base - 4);
    pen.lineTo(x + 4, base + 3);
  } else {
    pen.moveTo(x, base + 2);
    pen.lineTo(x, base - 6);
  }
  pen.stroke();
  if (taken <= 0 || roomPx < 2 * WORDS_PX || clipWords(clip)) return;
  pen.fillStyle = pageColour('removed');
  const seconds = taken / sampleRateHz;
  pen.fillText(`−${seconds < 10 ? seconds.toFixed(2) : seconds.toFixed(1)} s`, x + 7, base - 9);
}

/** Hairlines through a strip where clips begin or end: rust where something was cut. */
export function drawEdges(pen: Pen, height: number, view: TimeView, clips: readonly Clip[], reel: Reel = ONE): void {
  // So close together they would only grey the picture.
  if (clipAfter(clips, view.endFrame) - clipAfter(clips, view.startFrame) > view.widthPx / DENSE_PX) return;
  let drawn = -Infinity;
  const line = (x: number, cut: boolean): void => {
    if (x - drawn < 3 || x < 0 || x > view.widthPx) return;
    drawn = x;
    pen.fillStyle = pageColour(cut ? 'removed' : 'soft');
    pen.globalAlpha = cut ? 0.6 : 0.35;
    pen.fillRect(Math.round(x), 0, 1, height);
  };
  for (let i = clipAfter(clips, view.startFrame); i < clips.length && clips[i]!.startFrame < view.endFrame; i++) {
    const clip = clips[i]!;
    const before = clips[i - 1];
    if (i > 0 || clip.source.startFrame > 0 || clip.startFrame > 0)
      line(view.pxAt(clip.startFrame), before === undefined || !touch(before, clip) || cutFrames(before, clip, reel) !== 0);
    const after = clips[i + 1];
    if (after && !touch(clip, after)) line(view.pxAt(clipEnd(clip)), true);
  }
  pen.globalAlpha = 1;
}
