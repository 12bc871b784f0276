import { clipsIn, endOf, heardFrom } from '../arrangement/places.js';
import { EngineError } from '../errors.js';
import { clipEnd, clipFrames, NO_FADE, plainClip, RECORDING, SHORTEST_CLIP_FRAMES, type Clip } from './clip.js';
import { atEdge, cutSpans, joinWithin, partOf, requireClip, splitAt, tidySpans, withClips } from './clip-edits.js';
import { type Track } from './document.js';
import { partAt, partEnd } from './reel.js';
import { spanFrames, type Span } from './span.js';

/** An edge of a clip goes to a frame: as far as the recording, and the clips beside it, let it. What it gives up becomes a gap. */
export function trimClip(track: Track, clipId: string, edge: 'start' | 'end', toFrame: number): Track {
  const { clip, at } = requireClip(track, clipId);
  const before = track.clips[at - 1];
  const after = track.clips[at + 1];
  const to = Math.round(toFrame);
  const part = partAt(track.reel, clip.source.startFrame);
  const earliest = Math.max(before ? clipEnd(before) : 0, clip.startFrame - clip.source.startFrame + part.startFrame);
  const latest = Math.min(after ? after.startFrame : Infinity, clipEnd(clip) + partEnd(part) - clip.source.endFrame);
  const start = edge === 'start' ? Math.max(earliest, Math.min(clipEnd(clip) - SHORTEST_CLIP_FRAMES, to)) : clip.startFrame;
  const end = edge === 'end' ? Math.min(latest, Math.max(clip.startFrame + SHORTEST_CLIP_FRAMES, to)) : clipEnd(clip);
  const trimmed = partOf(clip, clip.id, start, end);
  const next = { ...trimmed, line: clip.line, fadeIn: clip.fadeIn, fadeOut: clip.fadeOut };
  return withClips(
    track,
    track.clips.map((other) => (other === clip ? next : other)),
  );
}

/** Where two clips touch, the joint goes to a frame: one gets longer by what the other gives up. */
export function moveJoint(track: Track, clipId: string, toFrame: number): Track {
  const { clip, at } = requireClip(track, clipId);
  const before = track.clips[at - 1];
  if (!before || clipEnd(before) !== clip.startFrame) return trimClip(track, clipId, 'start', toFrame);
  const { startFrame: first } = partAt(track.reel, clip.source.startFrame);
  const last = partEnd(partAt(track.reel, before.source.startFrame));
  const earliest = Math.max(before.startFrame + SHORTEST_CLIP_FRAMES, clip.startFrame - clip.source.startFrame + first);
  const latest = Math.min(clipEnd(clip) - SHORTEST_CLIP_FRAMES, clipEnd(before) + last - before.source.endFrame);
  const to = Math.max(earliest, Math.min(latest, Math.round(toFrame)));
  const left = { ...partOf(before, before.id, before.startFrame, to), line: before.line, fadeIn: before.fadeIn, fadeOut: before.fadeOut };
  const right = { ...partOf(clip, clip.id, to, clipEnd(clip)), line: clip.line, fadeIn: clip.fadeIn, fadeOut: clip.fadeOut };
  return withClips(
    track,
    track.clips.flatMap((other) => (other === before ? [left] : other === clip ? [right] : [other])),
  );
}

/** Clips move together, as far as there is room before and after each of them. */
export function moveClips(track: Track, clipIds: readonly string[], byFrames: number): Track {
  const moved = new Set(clipIds.map((id) => requireClip(track, id).clip));
  let by = Math.round(byFrames);
  track.clips.forEach((clip, i) => {
    if (!moved.has(clip)) return;
    const before = track.clips[i - 1];
    const after = track.clips[i + 1];
    if (by < 0 && !(before && moved.has(before))) by = Math.max(by, (before ? clipEnd(before) : 0) - clip.startFrame);
    if (by > 0 && after && !moved.has(after)) by = Math.min(by, after.startFrame - clipEnd(clip));
  });
  return by === 0
    ? track
    : withClips(
        track,
        track.clips.map((clip) => (moved.has(clip) ? { ...clip, startFrame: clip.startFrame + by } : clip)),
      );
}

/** Clips that were copied: their places count from the start of the span that they were in. */
export interface CopiedClips {
  readonly clips: readonly Clip[];
  readonly frames: number;
}

/** The clips of a span, to be put elsewhere. Gaps in the span stay gaps. @throws {EngineError} `clips-none` */
export function copySpan({ clips }: Pick<Track, 'clips'>, wanted: Span): CopiedClips {
  const [span] = tidySpans([wanted], clips);
  const parts = (span ? clipsIn(clips, span) : []).map((clip) => {
    const part = partOf(clip, clip.id, Math.max(clip.startFrame, span!.startFrame), Math.min(clipEnd(clip), span!.endFrame));
    return { ...part, startFrame: part.startFrame - span!.startFrame };
  });
  if (parts.length === 0) throw new EngineError('clips-none', 'Nothing sounds in this span; there is nothing to copy.');
  return { clips: parts, frames: spanFrames(span!) };
}

/** Copied clips come in at a frame; what stands there, and after it, makes room. */
export function pasteClips(track: Track, copied: CopiedClips, atFrame: number): Track {
  const at = atEdge(track.clips, Math.max(0, Math.min(endOf(track.clips), Math.round(atFrame))));
  const room = splitAt(track, [at]);
  let made = room.clipsMade;
  const parts = copied.clips.map((clip) => ({ ...clip, id: `c${++made}`, startFrame: clip.startFrame + at }));
  const before = room.clips.filter(({ startFrame }) => startFrame < at);
  const after = room.clips
    .filter(({ startFrame }) => startFrame >= at)
    .map((clip) => ({ ...clip, startFrame: clip.startFrame + copied.frames }));
  return withClips(track, [...before, ...parts, ...after], made);
}

/** A span goes to another place: what follows it closes up, what stands there makes room. */
export function moveSpan(track: Track, wanted: Span, atFrame: number): Track {
  const [span] = tidySpans([wanted], track.clips);
  if (!span) return track;
  const toFrame = atEdge(track.clips, Math.max(0, Math.min(endOf(track.clips), Math.round(atFrame))));
  if (toFrame >= span.startFrame && toFrame <= span.endFrame) return track;
  const pasted = pasteClips(track, copySpan(track, span), toFrame);
  const shift = toFrame < span.startFrame ? spanFrames(span) : 0;
  return cutSpans(pasted, [{ startFrame: span.startFrame + shift, endFrame: span.endFrame + shift }], true);
}

/** What is missing of the recording at the beginning of a clip, and where its room ends; null when nothing is. */
export function missingBefore(
  { clips, reel }: Pick<Track, 'clips' | 'reel'>,
  at: number,
): { readonly source: Span; readonly roomFrames: number } | null {
  const clip = clips[at]!;
  const before = clips[at - 1];
  const from = heardFrom(reel, clip, before);
  const roomFrames = clip.startFrame - (before ? clipEnd(before) : 0);
  const to = clip.source.startFrame;
  return to > from ? { source: { startFrame: from, endFrame: to }, roomFrames } : null;
}

/**
 * Gives back what was taken at a clip: its recording, where silence or room tone stands in its place; otherwise what was
 * cut before it (of the last clip, after it). What follows makes room for it as far as no gap was left.
 */
export function giveBack(track: Track, clipId: string, side: 'before' | 'after'): Track {
  const { clip, at } = requireClip(track, clipId);
  if (side === 'after') return giveBackEnd(track, clip);
  if (clip.sound.kind !== 'recording') {
    const clips = track.clips.map((other) => (other === clip ? { ...clip, sound: RECORDING } : other));
    return joinWithin(withClips(track, clips), [{ startFrame: clip.startFrame, endFrame: clipEnd(clip) }]);
  }
  const missing = missingBefore(track, at);
  if (!missing) throw new EngineError('nothing-cut', 'Nothing was cut here; there is nothing to give back.');
  const { source, roomFrames } = missing;
  const made = track.clipsMade + 1;
  const start = clip.startFrame - roomFrames;
  const back: Clip = { ...plainClip(`c${made}`, start, source), gainDb: track.clips[at - 1]?.gainDb ?? clip.gainDb };
  const push = Math.max(0, clipFrames(back) - roomFrames);
  // Where more room was left than is missing, it comes back right before what follows it.
  const placed = { ...back, startFrame: Math.max(start, clip.startFrame + push - clipFrames(back)) };
  const before = track.clips
    .slice(0, at)
    .map((other, i) => (i === at - 1 && push >= 0 && placed.startFrame === clipEnd(other) ? { ...other, fadeOut: NO_FADE } : other));
  const after = track.clips
    .slice(at)
    .map((other, i) => ({ ...other, startFrame: other.startFrame + push, ...(i === 0 ? { fadeIn: NO_FADE } : {}) }));
  return joinWithin(withClips(track, [...before, placed, ...after], made), [{ startFrame: placed.startFrame, endFrame: clipEnd(placed) }]);
}

function giveBackEnd(track: Track, clip: Clip): Track {
  const source = { startFrame: clip.source.endFrame, endFrame: partEnd(partAt(track.reel, clip.source.startFrame)) };
  if (clip !== track.clips[track.clips.length - 1] || spanFrames(source) <= 0)
    throw new EngineError('nothing-cut', 'Nothing was cut after this clip; there is nothing to give back.');
  const back = { ...plainClip(`c${track.clipsMade + 1}`, clipEnd(clip), source), gainDb: clip.gainDb };
  const before = track.clips.map((other) => (other === clip ? { ...clip, fadeOut: NO_FADE } : other));
  return joinWithin(withClips(track, [...before, back], track.clipsMade + 1), [{ startFrame: back.startFrame, endFrame: back.startFrame }]);
}
