import { EngineError } from '../errors.js';
import { MOST_TRACKS, type Clip, type SessionDocument, type Track } from './document.js';

/** A track for every channel of a recording, each with the chain of the clip, in the place of the clip's track. */
export function splitTracks(document: SessionDocument, clip: Clip, channels: number): SessionDocument {
  if (channels < 2 || channels > MOST_TRACKS)
    throw new EngineError('tracks-one', `Recordings of 2 to ${MOST_TRACKS} channels are split into tracks; this one has ${channels}.`, { channels });
  const made = (track: Track): Track[] =>
    Array.from({ length: channels }, (_, c) => ({
      ...track,
      id: c === 0 ? track.id : `${track.id}.${c + 1}`,
      name: `channel ${c + 1}`,
      clips: [{ ...clip, id: c === 0 ? clip.id : `${clip.id}.${c + 1}`, channels: [c] }],
    }));
  return { ...document, tracks: document.tracks.flatMap((track) => (track.clips.includes(clip) ? made(track) : [track])) };
}
