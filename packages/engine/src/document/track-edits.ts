import { EngineError } from '../errors.js';
import { MOST_TRACKS, type SessionDocument, type Track } from './document.js';

/** A track for every channel of a recording, each with the chain and the clips of the one that there was, in its place. */
export function splitTracks(document: SessionDocument, track: Track, channels: number): SessionDocument {
  if (channels < 2 || channels > MOST_TRACKS)
    throw new EngineError('tracks-one', `Recordings of 2 to ${MOST_TRACKS} channels are split into tracks; this one has ${channels}.`, {
      channels,
    });
  const made = Array.from({ length: channels }, (_, c): Track => ({
    ...track,
    id: c === 0 ? track.id : `${track.id}.${c + 1}`,
    name: `channel ${c + 1}`,
    channels: [c],
  }));
  return { ...document, tracks: document.tracks.flatMap((other) => (other === track ? made : [other])) };
}
