import { EngineError } from '../errors.js';
import { SHORTEST_CLIP_FRAMES, type Clip } from './clip.js';
import type { NoiseSource, Track } from './document.js';
import { partAt, partEnd, reelChannels, channelsFor, type RecordingFacts, type Reel, type ReelPart } from './reel.js';
import type { Span } from './span.js';

/** A clock is off by less than this share; another length is no drift. */
const MOST_SHARE = 0.001;

/**
 * The track with another recording in the place of one: the same, with the drift of its clock taken out, so that it is a little longer or
 * shorter. Everything that was said of places in it goes along: clips, gain lines, passages, room tone. Where clips touched they still do;
 * the first of them begins where it did.
 * @throws {EngineError} `length-other` when the lengths differ by more than a clock drifts, or it does not fit before the next recording
 */
export function withoutDrift(track: Track, atFrame: number, recording: RecordingFacts): Track {
  const part = partAt(track.reel, atFrame);
  const factor = recording.lengthFrames / part.frames;
  const next = track.reel[track.reel.indexOf(part) + 1];
  if (Math.abs(factor - 1) > MOST_SHARE || (next && part.startFrame + recording.lengthFrames >= next.startFrame))
    throw new EngineError(
      'length-other',
      `The recording has ${recording.lengthFrames} frames, the one that it is to stand for ${part.frames}: that is no drift of a clock.`,
      { recording: recording.lengthFrames, before: part.frames },
    );
  const channels = channelsFor(recording, reelChannels(track.reel));
  const made: ReelPart = {
    ...part,
    recordingId: recording.id,
    channels: part.channels.length === channels.length ? part.channels : channels,
    frames: recording.lengthFrames,
  };
  const end = partEnd(made);
  const inside = (frame: number): boolean => frame >= part.startFrame && frame <= partEnd(part);
  /** A frame of the reel. */
  const moved = (frame: number): number =>
    inside(frame) ? Math.min(end, part.startFrame + Math.round((frame - part.startFrame) * factor)) : frame;
  const span = ({ startFrame, endFrame }: Span): Span => ({ startFrame: moved(startFrame), endFrame: moved(endFrame) });
  const ofPart = (clip: Clip): boolean => partAt(track.reel, clip.source.startFrame) === part;
  const anchor = track.clips.find(ofPart)?.startFrame ?? 0;
  /** A frame of the session. */
  const placed = (frame: number): number => anchor + Math.round((frame - anchor) * factor);
  const clips = track.clips.map((clip, i): Clip => {
    if (!ofPart(clip)) return clip;
    const startFrame = placed(clip.startFrame);
    const length = placed(clip.startFrame + clip.source.endFrame - clip.source.startFrame) - startFrame;
    const after = track.clips[i + 1];
    // What follows of another recording stays where it is.
    const room = after && !ofPart(after) ? after.startFrame - startFrame : Infinity;
    const from = moved(clip.source.startFrame);
    const endFrame = Math.min(end, from + Math.max(SHORTEST_CLIP_FRAMES, Math.min(room, length)));
    return {
      ...clip,
      startFrame,
      source: { startFrame: from, endFrame },
      line: tidyLine(clip.line.map((point) => ({ ...point, frame: moved(point.frame) }))),
    };
  });
  const reel: Reel = track.reel.map((other) => (other === part ? made : other));
  const noise: NoiseSource | null =
    track.noise?.kind === 'passages' ? { kind: 'passages', spans: track.noise.spans.map(span) } : track.noise;
  return { ...track, reel, clips, noise, roomTone: track.roomTone && span(track.roomTone), loop: null };
}

/** Points that fell onto one frame become one. */
const tidyLine = (line: Clip['line']): Clip['line'] => line.filter((point, i) => i === 0 || point.frame > line[i - 1]!.frame);
