import { DspError, parseChain } from '@euphonos/dsp';
import { requireCover } from '../delivery/cover.js';
import { requireTags } from '../delivery/tags.js';
import { requireTarget } from '../delivery/targets.js';
import { EngineError } from '../errors.js';
import { endOf } from '../arrangement/places.js';
import { plainClip } from './clip.js';
import { fail, frame, list, number, object, span, text, type Json } from './json.js';
import { parseClips } from './parse-clips.js';
import {
  MOST_PASSAGES,
  MOST_PASSAGES_EACH,
  MOST_VERSIONS,
  PAN,
  SCHEMA_VERSION,
  TRACK_GAIN_DB,
  type NoiseSource,
  type SessionDocument,
  type Track,
  type Version,
} from './document.js';
import { parseMarks } from './parse-marks.js';
import { parseReel, reelOfOne } from './parse-reel.js';
import { liesInPart } from './reel.js';
import type { Span } from './span.js';

/** The first schema knew one passage and nothing else. */
function noise(track: Json, where: string, within: (value: unknown, name: string) => Span): NoiseSource | null {
  if (track['noisePassage'] !== null && track['noisePassage'] !== undefined)
    return { kind: 'passages', spans: [within(track['noisePassage'], 'noisePassage')] };
  if (track['noise'] === null || track['noise'] === undefined) return null;
  const json = object(track['noise'], `${where}.noise`);
  if (json['kind'] === 'kept')
    return {
      kind: 'kept',
      profileId: text(json['profileId'], `${where}.noise.profileId`),
      name: text(json['name'], `${where}.noise.name`),
    };
  if (json['kind'] !== 'passages') fail(`${where}.noise.kind`, 'must be "passages" or "kept"');
  const spans = list(json['spans'], `${where}.noise.spans`).map((item, i) => within(item, `noise.spans[${i}]`));
  const each = json['each'] === true;
  const good = spans.length >= 1 && spans.length <= (each ? MOST_PASSAGES_EACH : MOST_PASSAGES) && followEachOther(spans);
  return good
    ? { kind: 'passages', spans, ...(each ? { each } : {}) }
    : fail(`${where}.noise.spans`, `must be 1 to ${MOST_PASSAGES} passages that follow each other`);
}

/** The noise of the whole. An edit may have left it behind the end of the session: whoever takes the profile tells that. */
function wholeNoise(value: unknown, where: string): Span[] {
  const spans = list(value ?? [], where).map((item, i) => span(item, `${where}[${i}]`));
  return spans.length <= MOST_PASSAGES && followEachOther(spans)
    ? spans
    : fail(where, `must be up to ${MOST_PASSAGES} passages that follow each other`);
}

const followEachOther = (spans: readonly Span[]): boolean =>
  spans.every(({ startFrame }, i) => i === 0 || startFrame > spans[i - 1]!.endFrame);

function track(value: unknown, where: string, schema: number): Track {
  const json = schema < 3 ? asTrack(object(value, where), where) : object(value, where);
  const role = json['role'];
  const reel = schema < 4 ? reelOfOne(json, where) : parseReel(json['reel'], `${where}.reel`);
  const within = (value: unknown, name: string): Span => {
    const read = span(value, `${where}.${name}`);
    return liesInPart(reel, read) ? read : fail(`${where}.${name}`, 'must lie in the recording');
  };
  const clips = parseClips(json['clips'], `${where}.clips`, reel);
  const loop = json['loop'] === null || json['loop'] === undefined ? null : span(json['loop'], `${where}.loop`);
  return {
    id: text(json['id'], `${where}.id`),
    name: text(json['name'], `${where}.name`),
    role: role === 'speech' || role === 'bed' ? role : fail(`${where}.role`, 'must be "speech" or "bed"'),
    reel,
    chain: parseChain(json['chain'], true),
    noise: noise(json, where, within),
    noiseHeld: json['noiseHeld'] === true,
    loop: loop && loop.endFrame > endOf(clips) ? fail(`${where}.loop`, 'must lie in the track') : loop,
    clips,
    clipsMade: Math.max(frame(json['clipsMade'], `${where}.clipsMade`), clips.length),
    roomTone: json['roomTone'] === null || json['roomTone'] === undefined ? null : within(json['roomTone'], 'roomTone'),
    gainDb: json['gainDb'] === undefined ? 0 : number(json['gainDb'], `${where}.gainDb`, TRACK_GAIN_DB),
    pan: json['pan'] === undefined ? 0 : number(json['pan'], `${where}.pan`, PAN),
    muted: json['muted'] === true,
    chainLink: json['chainLink'] === null || json['chainLink'] === undefined ? null : text(json['chainLink'], `${where}.chainLink`),
  };
}

/** Before the third schema a track had one clip, which was a recording as a whole with its chain. */
function asTrack({ clips, ...rest }: Json, where: string): Json {
  const clip = object(list(clips, `${where}.clips`)[0], `${where}.clips[0]`);
  const source = span(clip['source'], `${where}.clips[0].source`);
  return { ...clip, ...rest, recordingFrames: source.endFrame, clips: [plainClip('c1', 0, source)], clipsMade: 1 };
}

/** Tracks whose ids are their own. */
function tracksOf(json: Json, where: string, schema: number): Track[] {
  const tracks = list(json['tracks'], `${where}tracks`).map((item, i) => track(item, `${where}tracks[${i}]`, schema));
  const ids = tracks.map(({ id }) => id);
  return new Set(ids).size === ids.length ? tracks : fail(`${where}tracks`, 'must have ids of their own');
}

function version(value: unknown, where: string, schema: number): Version {
  const json = object(value, where);
  return {
    id: text(json['id'], `${where}.id`),
    name: text(json['name'], `${where}.name`),
    keptAt: text(json['keptAt'], `${where}.keptAt`),
    tracks: tracksOf(json, `${where}.`, schema),
    target: requireTarget(object(json['target'], `${where}.target`)),
    chain: json['chain'] === undefined ? { treatments: [] } : parseChain(json['chain'], true),
    wholeNoise: wholeNoise(json['wholeNoise'], `${where}.wholeNoise`),
  };
}

/**
 * Reads a document from untrusted JSON.
 * @throws {EngineError} `document-shape` with the place, or `document-version` for a newer schema
 * @throws {DspError} when a chain in it is wrong
 */
export function parseDocument(value: unknown): SessionDocument {
  const json = object(value, 'the document');
  const schema = json['schemaVersion'];
  if (!Number.isInteger(schema) || (schema as number) < 1 || (schema as number) > SCHEMA_VERSION)
    throw new EngineError(
      'document-version',
      `The session document has schema version ${String(json['schemaVersion'])}; this program reads versions up to ${SCHEMA_VERSION}. Update the program.`,
    );
  const versions =
    json['versions'] === undefined
      ? []
      : list(json['versions'], 'versions').map((item, i) => version(item, `versions[${i}]`, schema as number));
  if (versions.length > MOST_VERSIONS) fail('versions', `must be ${MOST_VERSIONS} or fewer`);
  return {
    schemaVersion: SCHEMA_VERSION,
    sampleRateHz: frame(json['sampleRateHz'], 'sampleRateHz'),
    tracks: tracksOf(json, '', schema as number),
    chain: json['chain'] === undefined ? { treatments: [] } : parseChain(json['chain'], true),
    wholeNoise: wholeNoise(json['wholeNoise'], 'wholeNoise'),
    target: requireTarget(object(json['target'], 'target')),
    versions,
    marks: parseMarks(json['marks'] ?? []),
    tags: requireTags(json['tags']),
    cover: requireCover(json['cover']),
  };
}

/** True for the errors that reading a document throws. */
export const isDocumentError = (error: unknown): error is EngineError | DspError =>
  error instanceof EngineError || error instanceof DspError;
