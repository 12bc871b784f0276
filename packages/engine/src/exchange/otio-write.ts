import { jointOf, halves, touch } from '../arrangement/joints.js';
import { clipEnd, clipFrames, type Clip } from '../document/clip.js';
import type { Mark, SessionDocument, Track } from '../document/document.js';
import { partAt } from '../document/reel.js';
import { OWN, range, type Otio } from './otio-json.js';

/** A file that clips are stretches of. */
export interface Media {
  readonly recordingId: string;
  readonly fileName: string;
  /** Of its bytes; empty where it is not known. */
  readonly sha256: string;
}

const decibels = (gainDb: number): string => `${gainDb > 0 ? '+' : ''}${Math.round(gainDb * 10) / 10} dB`;

function reference(media: Media | undefined, recordingId: string, frames: number, rateHz: number): Otio {
  if (!media) return { OTIO_SCHEMA: 'MissingReference.1', metadata: { [OWN]: { recordingId } }, name: '', available_range: null };
  return {
    OTIO_SCHEMA: 'ExternalReference.1',
    metadata: { [OWN]: { recordingId, sha256: media.sha256, frames } },
    name: media.fileName,
    available_range: range(0, frames, rateHz),
    available_image_bounds: null,
    target_url: encodeURIComponent(media.fileName),
  };
}

const gap = (frames: number, rateHz: number): Otio => ({
  OTIO_SCHEMA: 'Gap.1',
  metadata: {},
  name: '',
  source_range: range(0, frames, rateHz),
  effects: [],
  markers: [],
  enabled: true,
});

function clipOf(clip: Clip, track: Track, media: ReadonlyMap<string, Media>, rateHz: number): Otio {
  const part = partAt(track.reel, clip.source.startFrame);
  const { id, sound, gainDb, line, fadeIn, fadeOut, chain } = clip;
  // Points of a line are told from the beginning of the clip, which may come back somewhere else on the reel.
  const own = {
    id,
    sound,
    gainDb,
    line: line.map((point) => ({ ...point, frame: point.frame - part.startFrame })),
    fadeIn,
    fadeOut,
    chain,
  };
  return {
    OTIO_SCHEMA: 'Clip.2',
    metadata: { [OWN]: own },
    name: media.get(part.recordingId)?.fileName ?? part.recordingId,
    source_range: range(clip.source.startFrame - part.startFrame, clipFrames(clip), rateHz),
    effects:
      gainDb === 0 ? [] : [{ OTIO_SCHEMA: 'Effect.1', metadata: { gain_db: gainDb }, name: decibels(gainDb), effect_name: 'AudioGain' }],
    markers: [],
    enabled: sound.kind !== 'silence',
    media_references: { DEFAULT_MEDIA: reference(media.get(part.recordingId), part.recordingId, part.frames, rateHz) },
    active_media_reference_key: 'DEFAULT_MEDIA',
  };
}

function childrenOf(track: Track, media: ReadonlyMap<string, Media>, rateHz: number): Otio[] {
  const children: Otio[] = [];
  let end = 0;
  for (const [i, clip] of track.clips.entries()) {
    const before = track.clips[i - 1];
    if (clip.startFrame > end) children.push(gap(clip.startFrame - end, rateHz));
    const joint = before && touch(before, clip) ? jointOf(before, clip, rateHz) : null;
    // What every joint has by itself, so that nothing clicks, is nobody's wish.
    if (joint?.kind === 'cross' && Math.max(before!.fadeOut.frames, clip.fadeIn.frames) > 0) {
      const [earlier, later] = halves(joint.frames);
      children.push({
        OTIO_SCHEMA: 'Transition.1',
        metadata: {},
        name: '',
        transition_type: 'SMPTE_Dissolve',
        in_offset: { OTIO_SCHEMA: 'RationalTime.1', rate: rateHz, value: earlier },
        out_offset: { OTIO_SCHEMA: 'RationalTime.1', rate: rateHz, value: later },
      });
    }
    children.push(clipOf(clip, track, media, rateHz));
    end = clipEnd(clip);
  }
  return children;
}

const markerOf = ({ id, name, startFrame, endFrame, note }: Mark, rateHz: number): Otio => ({
  OTIO_SCHEMA: 'Marker.2',
  metadata: { [OWN]: { id, place: endFrame === null } },
  name,
  color: 'RED',
  marked_range: range(startFrame, (endFrame ?? startFrame) - startFrame, rateHz),
  comment: note,
});

/** What of a session other programs will not hear, in words. */
export function notInOtio({ tracks, chain }: Pick<SessionDocument, 'tracks' | 'chain'>): string[] {
  const count = (many: number, one: string, more: string): string[] =>
    many === 0 ? [] : [many === 1 ? one : more.replace('#', String(many))];
  const clips = tracks.flatMap((track) => track.clips);
  const treated = tracks.filter((track) => track.chain.treatments.some(({ bypassed }) => !bypassed)).length;
  return [
    ...count(
      treated,
      'The chain of a track: the clips are of the recording as it came.',
      'The chains of # tracks: the clips are of the recordings as they came.',
    ),
    ...(chain.treatments.length > 0 ? ['The chain on the whole.'] : []),
    ...count(clips.filter((clip) => clip.chain !== null).length, 'The chain of a clip.', 'Chains of # clips.'),
    ...count(clips.filter(({ line }) => line.length > 0).length, 'A gain line.', 'Gain lines of # clips.'),
    ...count(
      clips.filter(({ sound }) => sound.kind === 'room-tone').length,
      'Room tone in the place of a clip.',
      'Room tone in the place of # clips.',
    ),
    ...count(
      tracks.filter(({ gainDb, pan }) => gainDb !== 0 || pan !== 0).length,
      'Level and place of a track.',
      'Levels and places of # tracks.',
    ),
    ...count(
      clips.filter((clip) => clip.fadeIn.frames > 0 || clip.fadeOut.frames > 0).length,
      'A fade at a free edge, and how fades go.',
      'Fades at free edges, and how fades go (# clips).',
    ),
  ];
}

/**
 * A session as an OpenTimelineIO timeline: a track of sound for each track, clips and gaps in frames of the session's rate, crossfades,
 * gains of clips as effects, marks. Everything else stands in the metadata, so that it comes back; `notInOtio` says what that is.
 */
export function timelineAsOtio(document: SessionDocument, name: string, files: readonly Media[]): Otio {
  const { sampleRateHz, tracks, chain, wholeNoise, target, tags } = document;
  const media = new Map(files.map((file) => [file.recordingId, file]));
  return {
    OTIO_SCHEMA: 'Timeline.1',
    metadata: { [OWN]: { sampleRateHz, chain, wholeNoise, target, tags } },
    name,
    global_start_time: null,
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      metadata: {},
      name: 'tracks',
      source_range: null,
      effects: [],
      markers: document.marks.map((mark) => markerOf(mark, sampleRateHz)),
      enabled: true,
      children: tracks.map((track) => {
        const { clips: _, ...own } = track;
        return {
          OTIO_SCHEMA: 'Track.1',
          metadata: { [OWN]: own },
          name: track.name,
          source_range: null,
          effects: [],
          markers: [],
          enabled: !track.muted,
          kind: 'Audio',
          children: childrenOf(track, media, sampleRateHz),
        };
      }),
    },
  };
}
