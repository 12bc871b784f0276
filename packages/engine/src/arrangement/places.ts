import { clipEnd, offsetOf, type Clip } from '../document/clip.js';
import { partAt, type Reel } from '../document/reel.js';
import type { Span } from '../document/span.js';

type Clips = readonly Clip[];

/** Length of a track: where its last clip ends. */
export const endOf = (clips: Clips): number => (clips.length === 0 ? 0 : clipEnd(clips[clips.length - 1]!));

/** Index of the first clip that ends after a frame of the session; `clips.length` when there is none. */
export function clipAfter(clips: Clips, frame: number): number {
  let low = 0;
  let high = clips.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (clipEnd(clips[middle]!) > frame) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** The clip that sounds at a frame of the session. */
export function clipAt(clips: Clips, frame: number): Clip | null {
  const clip = clips[clipAfter(clips, frame)];
  return clip && clip.startFrame <= frame ? clip : null;
}

/** The clips that sound in a span of the session. */
export function clipsIn(clips: Clips, { startFrame, endFrame }: Span): Clip[] {
  const found: Clip[] = [];
  for (let i = clipAfter(clips, startFrame); i < clips.length && clips[i]!.startFrame < endFrame; i++) found.push(clips[i]!);
  return found;
}

/** The frame of the recording at a frame of the session; null where nothing sounds. */
export function recordingFrameAt(clips: Clips, frame: number): number | null {
  const clip = clipAt(clips, frame);
  return clip && frame + offsetOf(clip);
}

/** Which spans of the recording sound in a span of the session, in the order of the session. */
export function recordingSpans(clips: Clips, span: Span): Span[] {
  const found: Span[] = [];
  for (const clip of clipsIn(clips, span)) {
    const offset = offsetOf(clip);
    const part = {
      startFrame: Math.max(span.startFrame, clip.startFrame) + offset,
      endFrame: Math.min(span.endFrame, clipEnd(clip)) + offset,
    };
    const last = found[found.length - 1];
    if (last && last.endFrame === part.startFrame) found[found.length - 1] = { ...last, endFrame: part.endFrame };
    else found.push(part);
  }
  return found;
}

/**
 * Where spans of a recording sound in the session. Made once for the clips of a track, for many spans: clips may come in
 * any order of the recording, and more than once.
 */
export class Placer {
  readonly #bySource: readonly Clip[];
  /** Latest end of the clips up to each. */
  readonly #latest: Float64Array;

  constructor(clips: Clips) {
    this.#bySource = [...clips].sort((a, b) => a.source.startFrame - b.source.startFrame);
    this.#latest = new Float64Array(clips.length);
    this.#bySource.forEach(({ source }, i) => (this.#latest[i] = Math.max(source.endFrame, this.#latest[i - 1] ?? 0)));
  }

  /** Places of a span, in the order of the session; pieces that follow each other are one. */
  placesOf({ startFrame, endFrame }: Span): Span[] {
    const found: Span[] = [];
    for (let i = this.#firstEndingAfter(startFrame); i < this.#bySource.length && this.#bySource[i]!.source.startFrame < endFrame; i++) {
      const clip = this.#bySource[i]!;
      const from = Math.max(startFrame, clip.source.startFrame);
      const to = Math.min(endFrame, clip.source.endFrame);
      if (from < to) found.push({ startFrame: from - offsetOf(clip), endFrame: to - offsetOf(clip) });
    }
    if (found.length < 2) return found;
    found.sort((a, b) => a.startFrame - b.startFrame);
    return found.reduce<Span[]>((spans, span) => {
      const last = spans[spans.length - 1];
      if (last?.endFrame === span.startFrame) spans[spans.length - 1] = { startFrame: last.startFrame, endFrame: span.endFrame };
      else spans.push(span);
      return spans;
    }, []);
  }

  /** Places of a single frame. */
  framesOf(frame: number): number[] {
    return this.placesOf({ startFrame: frame, endFrame: frame + 1 }).map(({ startFrame }) => startFrame);
  }

  #firstEndingAfter(frame: number): number {
    let low = 0;
    let high = this.#bySource.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#latest[middle]! > frame) high = middle;
      else low = middle + 1;
    }
    return low;
  }
}

/** Clips that stand in no order of the recording are looked through this far back. */
const LOOK_BACK = 8;

/** From where on what stands before a clip in its recording is missing there: from the end of the clip before, if that is of the same recording. */
export function heardFrom(reel: Reel, clip: Clip, before: Clip | undefined): number {
  const { startFrame } = partAt(reel, clip.source.startFrame);
  return before && partAt(reel, before.source.startFrame).startFrame === startFrame ? before.source.endFrame : startFrame;
}

/**
 * Tells the clip at which a frame of the recording is to be given back: one that is silent or room tone there, or the one
 * before which it was cut; null where it sounds, or where no clip goes on after it.
 */
export function takenFinder(clips: Clips, reel: Reel): (frame: number) => Clip | null {
  const placer = new Placer(clips);
  const gaps = clips
    .map((clip, i) => ({ from: heardFrom(reel, clip, clips[i - 1]), to: clip.source.startFrame, clip }))
    .filter(({ from, to }) => from < to)
    .sort((a, b) => a.from - b.from);
  return (frame) => {
    const [place] = placer.framesOf(frame);
    if (place !== undefined) {
      const clip = clipAt(clips, place)!;
      return clip.sound.kind === 'recording' ? null : clip;
    }
    let low = 0;
    let high = gaps.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (gaps[middle]!.from > frame) high = middle;
      else low = middle + 1;
    }
    for (let i = low - 1; i >= Math.max(0, low - LOOK_BACK); i--) if (frame < gaps[i]!.to) return gaps[i]!.clip;
    return null;
  };
}

/** Whether a track sounds exactly as its recording: one clip, all of it, as it is. */
export function isPlain(clips: Clips, recordingFrames: number): boolean {
  const [clip] = clips;
  if (clips.length !== 1 || !clip) return false;
  const { startFrame, source, sound, gainDb, line, fadeIn, fadeOut, chain } = clip;
  return (
    startFrame === 0 &&
    source.startFrame === 0 &&
    source.endFrame === recordingFrames &&
    sound.kind === 'recording' &&
    gainDb === 0 &&
    line.length === 0 &&
    fadeIn.frames === 0 &&
    fadeOut.frames === 0 &&
    chain === null
  );
}

/**
 * Where the sound at a frame of the session is after an edit: of several places the nearest; where it is gone, the frame
 * itself, within the track.
 */
export function followFrame(before: Clips, after: Clips, frame: number, placer = new Placer(after)): number {
  const recorded = recordingFrameAt(before, frame);
  const places = recorded === null ? [] : placer.framesOf(recorded);
  return places.reduce(
    (best, place) => (Math.abs(place - frame) < Math.abs(best - frame) ? place : best),
    places[0] ?? Math.min(frame, endOf(after)),
  );
}
