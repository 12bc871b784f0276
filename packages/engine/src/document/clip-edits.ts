import { clipAfter, endOf, followFrame, Placer } from '../arrangement/places.js';
import { EngineError } from '../errors.js';
import {
  CLIP_GAIN_DB,
  clipEnd,
  clipFrames,
  MOST_CLIPS,
  NO_FADE,
  offsetOf,
  RECORDING,
  SHORTEST_CLIP_FRAMES,
  type Clip,
  type ClipSound,
  type GainPoint,
} from './clip.js';
import { type Track } from './document.js';
import { spanFrames, type Span } from './span.js';

/** A frame, or the edge of a clip that is as good as there. */
export function atEdge(clips: readonly Clip[], frame: number): number {
  const clip = clips[clipAfter(clips, frame)] ?? clips[clips.length - 1]!;
  for (const edge of [clip.startFrame, clipEnd(clip)]) if (Math.abs(frame - edge) < SHORTEST_CLIP_FRAMES) return edge;
  return frame;
}

/** Spans in their order, none over another, within the track; their edges on those of clips, or well away from them. */
export function tidySpans(spans: readonly Span[], clips: readonly Clip[]): Span[] {
  const tidy: Span[] = [];
  const end = endOf(clips);
  for (const span of [...spans].sort((a, b) => a.startFrame - b.startFrame)) {
    const before = tidy[tidy.length - 1]?.endFrame ?? -Infinity;
    const start = atEdge(clips, Math.max(0, Math.round(span.startFrame)));
    const from = start < before + SHORTEST_CLIP_FRAMES ? Math.max(before, 0) : start;
    const to = atEdge(clips, Math.min(end, Math.round(span.endFrame)));
    if (to - from >= SHORTEST_CLIP_FRAMES) tidy.push({ startFrame: from, endFrame: to });
  }
  return tidy;
}

/** The points of a line that count within a span of the recording: those in it, and the next on either side. */
export function lineWithin(line: readonly GainPoint[], { startFrame, endFrame }: Span): readonly GainPoint[] {
  if (line.length < 2) return line;
  const first = Math.max(
    0,
    line.findLastIndex(({ frame }) => frame <= startFrame),
  );
  const after = line.findIndex(({ frame }) => frame >= endFrame);
  return first === 0 && (after < 0 || after === line.length - 1) ? line : line.slice(first, after < 0 ? line.length : after + 1);
}

/** A part of a clip, in frames of the session. Fades stay at the edges that stay. */
export function partOf(clip: Clip, id: string, startFrame: number, endFrame: number): Clip {
  const offset = offsetOf(clip);
  const source = { startFrame: startFrame + offset, endFrame: endFrame + offset };
  return {
    ...clip,
    id,
    startFrame,
    source,
    line: lineWithin(clip.line, source),
    fadeIn: startFrame === clip.startFrame ? clip.fadeIn : NO_FADE,
    fadeOut: endFrame === clipEnd(clip) ? clip.fadeOut : NO_FADE,
  };
}

/** Whether one clip goes on where the other ends, and sounds alike: a split that changed nothing. */
export const continues = (a: Clip, b: Clip): boolean =>
  clipEnd(a) === b.startFrame &&
  a.source.endFrame === b.source.startFrame &&
  JSON.stringify([a.sound, a.gainDb, a.chain]) === JSON.stringify([b.sound, b.gainDb, b.chain]) &&
  a.fadeOut.frames === 0 &&
  b.fadeIn.frames === 0;

/** Both as one, under the first one's id. */
function joinedClip(a: Clip, b: Clip): Clip {
  const line = [...a.line, ...b.line.filter(({ frame }) => !a.line.some((point) => point.frame === frame))].sort(
    (p, q) => p.frame - q.frame,
  );
  return { ...a, source: { startFrame: a.source.startFrame, endFrame: b.source.endFrame }, line, fadeOut: b.fadeOut };
}

/** The track with other clips; the loop goes where its sound went. @throws {EngineError} `clips-none`, `clips-many` */
export function withClips(track: Track, clips: readonly Clip[], clipsMade = track.clipsMade): Track {
  if (clips.length === 0) throw new EngineError('clips-none', 'Nothing would be left of the track. Leave some of it.');
  if (clips.length > MOST_CLIPS)
    throw new EngineError('clips-many', `A track holds up to ${MOST_CLIPS} clips; this would make ${clips.length}.`, { most: MOST_CLIPS });
  return { ...track, clips, clipsMade, loop: followed(track, clips) };
}

function followed({ clips: before, loop }: Track, clips: readonly Clip[]): Span | null {
  if (!loop) return null;
  const placer = new Placer(clips);
  const moved = (frame: number): number => followFrame(before, clips, frame, placer);
  const span = { startFrame: moved(loop.startFrame), endFrame: Math.min(endOf(clips), moved(loop.endFrame - 1) + 1) };
  return spanFrames(span) > 0 ? span : null;
}

/** The clips with an edge at each of the frames that lies within one. */
export function splitAt(track: Track, frames: readonly number[]): Track {
  const { clips } = track;
  let made = track.clipsMade;
  const sorted = [...new Set(frames)].sort((a, b) => a - b);
  const apart = (edge: number, from: number, to: number): boolean =>
    edge - from >= SHORTEST_CLIP_FRAMES && to - edge >= SHORTEST_CLIP_FRAMES;
  const parts: (readonly Clip[])[] = [];
  let done = 0;
  for (let next = 0; next < sorted.length;) {
    const at = clipAfter(clips, sorted[next]!);
    const clip = clips[at];
    if (!clip) break;
    const cuts: number[] = [];
    for (; next < sorted.length && sorted[next]! < clipEnd(clip); next++)
      if (apart(sorted[next]!, cuts[cuts.length - 1] ?? clip.startFrame, clipEnd(clip))) cuts.push(sorted[next]!);
    if (cuts.length === 0) continue;
    const edges = [clip.startFrame, ...cuts, clipEnd(clip)];
    parts.push(
      clips.slice(done, at),
      edges.slice(1).map((to, i) => partOf(clip, i === 0 ? clip.id : `c${++made}`, edges[i]!, to)),
    );
    done = at + 1;
  }
  return parts.length === 0 ? track : withClips(track, parts.concat([clips.slice(done)]).flat(), made);
}

/** Joins what follows each other unchanged: at every joint within the spans, which stand in their order. */
export function joinWithin(track: Track, spans: readonly Span[]): Track {
  const gone = new Set<Clip>();
  const grown = new Map<Clip, Clip>();
  for (const { startFrame, endFrame } of spans) {
    const first = Math.max(1, clipAfter(track.clips, startFrame - 1));
    for (let i = first; i < track.clips.length && track.clips[i]!.startFrame <= endFrame; i++) {
      const clip = track.clips[i]!;
      if (clip.startFrame < startFrame || gone.has(clip)) continue;
      // The clip before may itself have been joined to the one before it.
      let root = i - 1;
      while (gone.has(track.clips[root]!)) root--;
      const before = grown.get(track.clips[root]!) ?? track.clips[root]!;
      if (!continues(before, clip)) continue;
      grown.set(track.clips[root]!, joinedClip(before, clip));
      gone.add(clip);
    }
  }
  return gone.size === 0
    ? track
    : withClips(
        track,
        track.clips.flatMap((clip) => (gone.has(clip) ? [] : [grown.get(clip) ?? clip])),
      );
}

/** Splits at the edges of the spans, and makes of each clip in them what `make` says. */
function carved(track: Track, spans: readonly Span[], make: (clip: Clip, spanIndex: number) => Clip | null): Track {
  const split = splitAt(
    track,
    spans.flatMap(({ startFrame, endFrame }) => [startFrame, endFrame]),
  );
  const parts: (readonly Clip[])[] = [];
  let done = 0;
  spans.forEach(({ startFrame, endFrame }, i) => {
    const from = clipAfter(split.clips, startFrame);
    let to = from;
    while (to < split.clips.length && split.clips[to]!.startFrame < endFrame) to++;
    parts.push(
      split.clips.slice(done, from),
      split.clips.slice(from, to).flatMap((clip) => make(clip, i) ?? []),
    );
    done = to;
  });
  return withClips({ ...split, clips: track.clips, loop: track.loop }, parts.concat([split.clips.slice(done)]).flat(), split.clipsMade);
}

/** Takes spans out. With `close` what follows moves up; otherwise nothing sounds there. */
export function cutSpans(track: Track, wanted: readonly Span[], close: boolean): Track {
  const spans = tidySpans(wanted, track.clips);
  const left = carved(track, spans, () => null);
  if (!close) return left;
  let at = 0;
  let gone = 0;
  const clips = left.clips.map((clip) => {
    while (at < spans.length && spans[at]!.endFrame <= clip.startFrame) gone += spanFrames(spans[at++]!);
    return gone === 0 ? clip : { ...clip, startFrame: clip.startFrame - gone };
  });
  return withClips(track, clips, left.clipsMade);
}

const heldGain = (gainDb: number): number => Math.round(Math.max(CLIP_GAIN_DB.min, Math.min(CLIP_GAIN_DB.max, gainDb)) * 100) / 100;

/** What is heard in spans: nothing, room tone (at the gain of each), or the recording again. */
export function fillSpans(track: Track, spans: readonly (Span & { readonly sound: ClipSound })[]): Track {
  const tidy = tidySpans(spans, track.clips);
  const middle = ({ startFrame, endFrame }: Span): number => (startFrame + endFrame) / 2;
  const sounds = tidy.map(
    (span) => spans.findLast(({ startFrame, endFrame }) => startFrame <= middle(span) && endFrame > middle(span))?.sound ?? RECORDING,
  );
  return joinWithin(
    carved(track, tidy, (clip, i) => ({ ...clip, sound: sounds[i]! })),
    tidy,
  );
}

/** Lowers (or raises) spans. */
export function levelSpans(track: Track, spans: readonly Span[], byDb: number): Track {
  const tidy = tidySpans(spans, track.clips);
  return joinWithin(
    carved(track, tidy, (clip) => ({ ...clip, gainDb: heldGain(clip.gainDb + byDb) })),
    tidy,
  );
}

/** The clip of that id, and where it stands. @throws {EngineError} `clip-unknown` */
export function requireClip(track: Track, clipId: string): { readonly clip: Clip; readonly at: number } {
  const at = track.clips.findIndex(({ id }) => id === clipId);
  if (at < 0) throw new EngineError('clip-unknown', `This track has no clip "${clipId}".`, { clipId });
  return { clip: track.clips[at]!, at };
}

/** Gain, line and fades of a clip, as far as they are told. */
export function shapeClip(track: Track, clipId: string, shape: Partial<Pick<Clip, 'gainDb' | 'line' | 'fadeIn' | 'fadeOut'>>): Track {
  const { clip } = requireClip(track, clipId);
  const longest = clipFrames(clip);
  const fade = <F extends { frames: number }>(wanted: F): F => ({
    ...wanted,
    frames: Math.max(0, Math.min(longest, Math.round(wanted.frames))),
  });
  const next: Clip = {
    ...clip,
    gainDb: heldGain(shape.gainDb ?? clip.gainDb),
    line: shape.line ? tidyLine(shape.line) : clip.line,
    fadeIn: shape.fadeIn ? fade(shape.fadeIn) : clip.fadeIn,
    fadeOut: shape.fadeOut ? fade(shape.fadeOut) : clip.fadeOut,
  };
  return withClips(
    track,
    track.clips.map((other) => (other === clip ? next : other)),
  );
}

/** Points in their order, one a frame (the last told), within the range. */
function tidyLine(line: readonly GainPoint[]): GainPoint[] {
  const byFrame = new Map(line.map(({ frame, gainDb }) => [Math.max(0, Math.round(frame)), heldGain(gainDb)]));
  return [...byFrame].sort(([a], [b]) => a - b).map(([frame, gainDb]) => ({ frame, gainDb }));
}
