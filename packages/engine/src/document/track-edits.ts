import { chainDifferences } from '@euphonos/dsp';
import { EngineError } from '../errors.js';
import { withoutTrack } from './chain-edits.js';
import { withoutDrift } from './drift.js';
import { moveToTrack } from './clips-to-track.js';
import { addRecording, newTrack, startingChain } from './create.js';
import { MOST_TRACKS, PAN, TRACK_GAIN_DB, type SessionDocument, type Track } from './document.js';
import { channelsFor, partAt, reelChannels, type RecordingFacts } from './reel.js';

/** What can be done to the tracks of a session. Frames are those of the session. */
export type TracksEdit =
  | { readonly type: 'split-tracks'; readonly trackId: string; readonly channels: number }
  /** A recording on a new track, which is called so; of the channels told, or of its first two. */
  | {
      readonly type: 'add-track';
      readonly newId: string;
      readonly recording: RecordingFacts;
      readonly startFrame?: number;
      readonly channels?: readonly number[];
    }
  /** A recording behind what is on a track already, or later. */
  | { readonly type: 'add-recording'; readonly trackId: string; readonly recording: RecordingFacts; readonly startFrame?: number }
  /** Another recording of the same length in the place of the one that lies at a frame of the reel: all edits stay. */
  | { readonly type: 'exchange-recording'; readonly trackId: string; readonly atFrame: number; readonly recording: RecordingFacts }
  /** The same recording with the drift of its clock taken out, in the place of the one that lies at a frame of the reel. */
  | { readonly type: 'take-drift-out'; readonly trackId: string; readonly atFrame: number; readonly recording: RecordingFacts }
  | { readonly type: 'remove-track'; readonly trackId: string }
  /** Clips go to another track, at the same time; one that nothing is left of goes with them. */
  | { readonly type: 'move-to-track'; readonly trackId: string; readonly clipIds: readonly string[]; readonly toTrackId: string }
  /** Tracks in another order. */
  | { readonly type: 'order-tracks'; readonly trackIds: readonly string[] }
  /** All of a track sounds earlier or later, as far as it does not begin before the session. */
  | { readonly type: 'shift-track'; readonly trackId: string; readonly byFrames: number }
  | {
      readonly type: 'set-track';
      readonly trackId: string;
      readonly gainDb?: number;
      readonly pan?: number;
      readonly muted?: boolean;
      readonly name?: string;
      readonly role?: Track['role'];
    };

const kinds: ReadonlySet<string> = new Set<TracksEdit['type']>([
  'split-tracks',
  'add-track',
  'add-recording',
  'exchange-recording',
  'take-drift-out',
  'remove-track',
  'move-to-track',
  'order-tracks',
  'shift-track',
  'set-track',
]);
export const isTracksEdit = (edit: { readonly type: string }): edit is TracksEdit => kinds.has(edit.type);

const LONGEST_NAME = 120;

/** Pure: the document after the edit; `track` is the one that the edit names, if it names one. @throws {EngineError} */
export function editTracks(document: SessionDocument, edit: TracksEdit, track: Track | null): SessionDocument {
  const replaced = (next: Track): SessionDocument => ({
    ...document,
    tracks: document.tracks.map((other) => (other === track ? next : other)),
  });
  switch (edit.type) {
    case 'split-tracks':
      return splitTracks(document, track!, edit.channels);
    case 'add-track':
      return withTrack(document, newTrack(edit.newId, requireRate(document, edit.recording), edit.startFrame, edit.channels));
    case 'add-recording':
      return replaced(addRecording(track!, requireRate(document, edit.recording), edit.startFrame));
    case 'exchange-recording':
      return replaced(exchanged(track!, edit.atFrame, requireRate(document, edit.recording)));
    case 'take-drift-out':
      return replaced(withoutDrift(track!, edit.atFrame, requireRate(document, edit.recording)));
    case 'remove-track':
      if (document.tracks.length === 1) throw new EngineError('tracks-one', 'The last track of a session stays.');
      return { ...document, tracks: withoutTrack(document.tracks, track!) };
    case 'move-to-track':
      return moveToTrack(document, track!, edit.clipIds, edit.toTrackId);
    case 'order-tracks':
      return ordered(document, edit.trackIds);
    case 'shift-track':
      return replaced(shifted(track!, edit.byFrames));
    case 'set-track':
      return replaced({
        ...inRole(track!, edit.role),
        name: edit.name?.trim().slice(0, LONGEST_NAME) || track!.name,
        gainDb: Math.max(TRACK_GAIN_DB.min, Math.min(TRACK_GAIN_DB.max, edit.gainDb ?? track!.gainDb)),
        pan: Math.max(PAN.min, Math.min(PAN.max, edit.pan ?? track!.pan)),
        muted: edit.muted ?? track!.muted,
      });
  }
}

/** A bed that nobody has treated yet is left as it is; speech has the usual chain to begin with. */
function inRole(track: Track, role: Track['role'] = track.role): Track {
  if (role === track.role) return track;
  const [from, to] = role === 'bed' ? [startingChain(), { treatments: [] }] : [{ treatments: [] }, startingChain()];
  const untouched = track.chain.treatments.length === from.treatments.length && chainDifferences(track.chain, from).length === 0;
  return { ...track, role, chain: untouched ? to : track.chain };
}

function ordered(document: SessionDocument, trackIds: readonly string[]): SessionDocument {
  const tracks = trackIds.flatMap((id) => document.tracks.find((track) => track.id === id) ?? []);
  if (new Set(tracks).size !== document.tracks.length || tracks.length !== document.tracks.length)
    throw new EngineError('document-shape', 'An order of tracks names each of them once.');
  return { ...document, tracks };
}

function withTrack(document: SessionDocument, track: Track): SessionDocument {
  if (document.tracks.length >= MOST_TRACKS)
    throw new EngineError('tracks-many', `A session holds up to ${MOST_TRACKS} tracks. Put the recording on one of them.`, {
      most: MOST_TRACKS,
    });
  if (document.tracks.some(({ id }) => id === track.id))
    throw new EngineError('document-shape', `There is a track "${track.id}" already.`, { trackId: track.id });
  return { ...document, tracks: [...document.tracks, track] };
}

/** All recordings of a session have its rate: they are converted when they are read. */
function requireRate({ sampleRateHz }: SessionDocument, recording: RecordingFacts): RecordingFacts {
  if (recording.sampleRateHz !== sampleRateHz)
    throw new EngineError(
      'rate-other',
      `The recording has ${recording.sampleRateHz} Hz, the session ${sampleRateHz} Hz. Bring it into this session, where it is converted.`,
      { recording: recording.sampleRateHz, session: sampleRateHz },
    );
  return recording;
}

function exchanged(track: Track, atFrame: number, recording: RecordingFacts): Track {
  const before = partAt(track.reel, atFrame);
  if (before.frames !== recording.lengthFrames)
    throw new EngineError(
      'length-other',
      `The recording has ${recording.lengthFrames} frames, the one that it is to stand for ${before.frames}. Add it to the track instead.`,
      { recording: recording.lengthFrames, before: before.frames },
    );
  const channels = channelsFor(recording, reelChannels(track.reel));
  return { ...track, reel: track.reel.map((part) => (part === before ? { ...part, recordingId: recording.id, channels } : part)) };
}

function shifted(track: Track, byFrames: number): Track {
  const by = Math.max(-track.clips[0]!.startFrame, Math.round(byFrames));
  const moved = (frame: number): number => Math.max(0, frame + by);
  return {
    ...track,
    clips: track.clips.map((clip) => ({ ...clip, startFrame: clip.startFrame + by })),
    loop: track.loop && { startFrame: moved(track.loop.startFrame), endFrame: moved(track.loop.endFrame) },
  };
}

/** A track for every channel of a recording, each with the chain and the clips of the one that there was, in its place. */
function splitTracks(document: SessionDocument, track: Track, channels: number): SessionDocument {
  if (channels < 2 || channels > MOST_TRACKS)
    throw new EngineError('tracks-one', `Recordings of 2 to ${MOST_TRACKS} channels are split into tracks; this one has ${channels}.`, {
      channels,
    });
  const made = Array.from({ length: channels }, (_, c): Track => ({
    ...track,
    id: c === 0 ? track.id : `${track.id}.${c + 1}`,
    name: `channel ${c + 1}`,
    reel: track.reel.map((part) => ({ ...part, channels: [c] })),
  }));
  return { ...document, tracks: document.tracks.flatMap((other) => (other === track ? made : [other])) };
}

/** An edit of tracks in a few words. `name` is that of the track. */
export function describeTracksEdit(edit: TracksEdit, name: string): string {
  switch (edit.type) {
    case 'split-tracks':
      return `A track for each of ${edit.channels} channels`;
    case 'add-track':
      return `Track of ${edit.recording.name}`;
    case 'add-recording':
      return `${edit.recording.name} onto ${name}`;
    case 'exchange-recording':
      return `${edit.recording.name} in place of another`;
    case 'take-drift-out':
      return `Take the drift out of ${edit.recording.name}`;
    case 'remove-track':
      return `Remove ${name}`;
    case 'move-to-track':
      return edit.clipIds.length === 1 ? 'Clip to another track' : `${edit.clipIds.length} clips to another track`;
    case 'order-tracks':
      return 'Order of tracks';
    case 'shift-track':
      return `Move ${name}`;
    case 'set-track':
      if (edit.name !== undefined) return `Rename ${name}`;
      if (edit.role !== undefined) return `${name} is ${edit.role === 'bed' ? 'a bed' : 'speech'}`;
      if (edit.pan !== undefined) return `${name}: ${describePan(edit.pan)}`;
      return edit.muted === undefined ? `${name}: ${edit.gainDb} dB` : `${edit.muted ? 'Mute' : 'Hear'} ${name}`;
  }
}

/** Where something stands, in words: "middle", "30 % left". */
export const describePan = (pan: number): string =>
  Math.abs(pan) < 0.005 ? 'middle' : `${Math.round(Math.abs(pan) * 100)} % ${pan < 0 ? 'left' : 'right'}`;
