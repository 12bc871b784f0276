import { endOf } from '../arrangement/places.js';
import { EngineError } from '../errors.js';
import { withoutTrack } from './chain-edits.js';
import { clipEnd, type Clip } from './clip.js';
import { requireClip, withClips } from './clip-edits.js';
import { type SessionDocument, type Track } from './document.js';
import { channelsFor, MOST_PARTS, nextStart, partAt, reelChannels, type Reel, type ReelPart } from './reel.js';

/**
 * Clips of one track at the same time on another, where there is room for each. The recordings that they are made of join its reel where
 * they do not lie on it yet. A track of which no clip is left is gone. Silence keeps what it stands for; room tone would be that of
 * another room, so its recording is heard again.
 * @throws {EngineError} `place-taken`, `track-unknown`, `clip-unknown` or `reel-full`
 */
export function moveToTrack(document: SessionDocument, from: Track, clipIds: readonly string[], toTrackId: string): SessionDocument {
  const to = document.tracks.find(({ id }) => id === toTrackId);
  if (!to) throw new EngineError('track-unknown', `This session has no track "${toTrackId}".`, { trackId: toTrackId });
  const moved = clipIds.map((id) => requireClip(from, id).clip);
  if (to === from || moved.length === 0) return document;
  const target = moved.reduce((track, clip) => withClip(track, from, clip), to);
  const rest = from.clips.filter((clip) => !moved.includes(clip));
  const tracks = document.tracks.map((track) => (track === to ? target : track));
  if (rest.length === 0) return { ...document, tracks: withoutTrack(tracks, from) };
  const end = endOf(rest);
  const loop = from.loop && from.loop.endFrame <= end ? from.loop : null;
  return { ...document, tracks: tracks.map((track) => (track === from ? { ...withClips(from, rest), loop } : track)) };
}

function withClip(track: Track, from: Track, clip: Clip): Track {
  const taken = track.clips.find((other) => other.startFrame < clipEnd(clip) && clipEnd(other) > clip.startFrame);
  if (taken)
    throw new EngineError(
      'place-taken',
      `Something sounds on ${track.name} at that time already. Cut it there, or move the clip in time first.`,
      { trackId: track.id, clipId: taken.id },
    );
  const part = partAt(from.reel, clip.source.startFrame);
  const { reel, at } = withRecording(track.reel, part);
  const by = at.startFrame - part.startFrame;
  const made = track.clipsMade + 1;
  const placed: Clip = {
    ...clip,
    id: `c${made}`,
    source: { startFrame: clip.source.startFrame + by, endFrame: clip.source.endFrame + by },
    line: clip.line.map((point) => ({ ...point, frame: point.frame + by })),
    sound: clip.sound.kind === 'room-tone' ? { kind: 'recording' } : clip.sound,
  };
  const clips = [...track.clips, placed].sort((a, b) => a.startFrame - b.startFrame);
  return withClips({ ...track, reel }, clips, made);
}

/** The reel with the recording of a part of another one: the same channels of it, as many as this reel has. */
function withRecording(reel: Reel, { recordingId, channels, frames }: ReelPart): { readonly reel: Reel; readonly at: ReelPart } {
  const width = reelChannels(reel);
  const fitted = channels.length >= width ? channels.slice(0, width) : channelsFor({ channels: 1 }, width).map(() => channels[0]!);
  const same = reel.find((part) => part.recordingId === recordingId && part.channels.every((channel, i) => channel === fitted[i]));
  if (same) return { reel, at: same };
  if (reel.length >= MOST_PARTS)
    throw new EngineError('reel-full', `A track holds up to ${MOST_PARTS} recordings. Put this one on a track of its own.`, {
      most: MOST_PARTS,
    });
  const at: ReelPart = { recordingId, channels: fitted, startFrame: nextStart(reel), frames };
  return { reel: [...reel, at], at };
}
