import { defaultTreatment, type ChainSpec } from '@euphonos/dsp';
import { NO_TAGS } from '../delivery/tags.js';
import { targets } from '../delivery/targets.js';
import { plainClip } from './clip.js';
import { MOST_TRACKS, SCHEMA_VERSION, type SessionDocument, type Track } from './document.js';
import { partEnd, withPart, type RecordingFacts } from './reel.js';
import { endOf } from '../arrangement/places.js';
import { EngineError } from '../errors.js';

/** The chain that a new track starts with, in the usual order of work: the high-pass on, the rest waiting. */
export function startingChain(): ChainSpec {
  return {
    treatments: [
      { ...defaultTreatment('high-pass'), id: 't1' },
      { ...defaultTreatment('hum-notch'), id: 't2', bypassed: true },
      { ...defaultTreatment('noise-reduction'), id: 't3' },
      { ...defaultTreatment('gate'), id: 't4', bypassed: true },
    ],
  };
}

/** A track with one recording, which sounds from `startFrame` on. Of more than two channels the first two are taken, unless told. */
export function newTrack(id: string, recording: RecordingFacts, startFrame = 0, channels?: readonly number[]): Track {
  return {
    id,
    name: recording.name,
    role: 'speech',
    reel: withPart([], recording, channels),
    chain: startingChain(),
    noise: null,
    noiseHeld: false,
    loop: null,
    clips: [plainClip('c1', startFrame, { startFrame: 0, endFrame: recording.lengthFrames })],
    clipsMade: 1,
    roomTone: null,
    gainDb: 0,
    pan: 0,
    muted: false,
    chainLink: null,
  };
}

/** How several recordings make a session: a track each, or one behind the other on one track. */
export type Placing = 'tracks' | 'sequence';

/**
 * A session of recordings, which all have its rate. On tracks of their own they start at `startFrames` (the beginning, where none is given);
 * in sequence they follow each other.
 * @throws {EngineError} `tracks-many`
 */
export function createDocument(
  recordings: RecordingFacts | readonly RecordingFacts[],
  placing: Placing = 'tracks',
  startFrames: readonly number[] = [],
): SessionDocument {
  const list = Array.isArray(recordings) ? (recordings as readonly RecordingFacts[]) : [recordings as RecordingFacts];
  return {
    schemaVersion: SCHEMA_VERSION,
    sampleRateHz: list[0]!.sampleRateHz,
    target: targets[0]!,
    chain: { treatments: [] },
    wholeNoise: [],
    versions: [],
    marks: [],
    tags: NO_TAGS,
    cover: null,
    tracks: placing === 'tracks' ? onTracks(list, startFrames) : [inSequence(list)],
  };
}

function onTracks(list: readonly RecordingFacts[], startFrames: readonly number[]): Track[] {
  if (list.length > MOST_TRACKS)
    throw new EngineError('tracks-many', `A session holds up to ${MOST_TRACKS} tracks; these are ${list.length} recordings.`, {
      most: MOST_TRACKS,
    });
  return list.map((recording, i) => newTrack(`track-${i + 1}`, recording, startFrames[i] ?? 0));
}

function inSequence([first, ...rest]: readonly RecordingFacts[]): Track {
  return rest.reduce((track, recording) => addRecording(track, recording), newTrack('track-1', first!));
}

/** The track with one more recording, which sounds from `startFrame` on: behind everything else, where nothing is told. */
export function addRecording(track: Track, recording: RecordingFacts, startFrame?: number): Track {
  const reel = withPart(track.reel, recording);
  const part = reel[reel.length - 1]!;
  const end = endOf(track.clips);
  const clipsMade = track.clipsMade + 1;
  const clip = plainClip(`c${clipsMade}`, Math.max(end, startFrame ?? end), { startFrame: part.startFrame, endFrame: partEnd(part) });
  return { ...track, reel, clipsMade, clips: [...track.clips, clip] };
}
