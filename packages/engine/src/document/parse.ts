import { DspError, parseChain } from '@euphonos/dsp';
import { requireTarget } from '../delivery/targets.js';
import { EngineError } from '../errors.js';
import { MOST_PASSAGES, MOST_VERSIONS, SCHEMA_VERSION, type Clip, type NoiseSource, type SessionDocument, type Span, type Track, type Version } from './document.js';

type Json = Record<string, unknown>;

const fail = (where: string, rule: string): never => {
  throw new EngineError('document-shape', `The session document is not readable: ${where} ${rule}.`, { where });
};

const object = (value: unknown, where: string): Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : fail(where, 'must be an object');
const list = (value: unknown, where: string): unknown[] => (Array.isArray(value) ? value : fail(where, 'must be a list'));
const text = (value: unknown, where: string): string =>
  typeof value === 'string' && value.length > 0 && value.length <= 300 ? value : fail(where, 'must be a text of 1 to 300 characters');
const frame = (value: unknown, where: string): number =>
  Number.isSafeInteger(value) && (value as number) >= 0 ? (value as number) : fail(where, 'must be a whole number of frames, 0 or more');

function span(value: unknown, where: string): Span {
  const json = object(value, where);
  const read = { startFrame: frame(json['startFrame'], `${where}.startFrame`), endFrame: frame(json['endFrame'], `${where}.endFrame`) };
  return read.startFrame <= read.endFrame ? read : fail(where, 'must not end before it starts');
}

function channels(value: unknown, where: string): number[] {
  const read = list(value, where).map((channel) => frame(channel, where));
  return read.length >= 1 && read.length <= 2 && new Set(read).size === read.length ? read : fail(where, 'must name one or two different channels');
}

function clip(value: unknown, where: string): Clip {
  const json = object(value, where);
  const source = span(json['source'], `${where}.source`);
  const within = (value: unknown, name: string): Span => {
    const read = span(value, `${where}.${name}`);
    return read.startFrame >= source.startFrame && read.endFrame <= source.endFrame ? read : fail(`${where}.${name}`, 'must lie in the clip');
  };
  return {
    id: text(json['id'], `${where}.id`),
    recordingId: text(json['recordingId'], `${where}.recordingId`),
    startFrame: frame(json['startFrame'], `${where}.startFrame`),
    source,
    channels: channels(json['channels'], `${where}.channels`),
    chain: parseChain(json['chain']),
    noise: noise(json, where, within),
    noiseHeld: json['noiseHeld'] === true,
    loop: json['loop'] === null || json['loop'] === undefined ? null : within(json['loop'], 'loop'),
  };
}

/** The first schema knew one passage and nothing else. */
function noise(clip: Json, where: string, within: (value: unknown, name: string) => Span): NoiseSource | null {
  if (clip['noisePassage'] !== null && clip['noisePassage'] !== undefined) return { kind: 'passages', spans: [within(clip['noisePassage'], 'noisePassage')] };
  if (clip['noise'] === null || clip['noise'] === undefined) return null;
  const json = object(clip['noise'], `${where}.noise`);
  if (json['kind'] === 'kept') return { kind: 'kept', profileId: text(json['profileId'], `${where}.noise.profileId`), name: text(json['name'], `${where}.noise.name`) };
  if (json['kind'] !== 'passages') fail(`${where}.noise.kind`, 'must be "passages" or "kept"');
  const spans = list(json['spans'], `${where}.noise.spans`).map((item, i) => within(item, `noise.spans[${i}]`));
  const good = spans.length >= 1 && spans.length <= MOST_PASSAGES && spans.every(({ startFrame }, i) => i === 0 || startFrame > spans[i - 1]!.endFrame);
  return good ? { kind: 'passages', spans } : fail(`${where}.noise.spans`, `must be 1 to ${MOST_PASSAGES} passages that follow each other`);
}

function track(value: unknown, where: string): Track {
  const json = object(value, where);
  const role = json['role'];
  return {
    id: text(json['id'], `${where}.id`),
    name: text(json['name'], `${where}.name`),
    role: role === 'speech' || role === 'bed' ? role : fail(`${where}.role`, 'must be "speech" or "bed"'),
    clips: list(json['clips'], `${where}.clips`).map((item, i) => clip(item, `${where}.clips[${i}]`)),
  };
}

/** Tracks whose ids are their own. */
function tracksOf(json: Json, where: string): Track[] {
  const tracks = list(json['tracks'], `${where}tracks`).map((item, i) => track(item, `${where}tracks[${i}]`));
  const ids = tracks.flatMap(({ id, clips }) => [id, ...clips.map((item) => item.id)]);
  return new Set(ids).size === ids.length ? tracks : fail(`${where}tracks`, 'must have ids of their own');
}

function version(value: unknown, where: string): Version {
  const json = object(value, where);
  return {
    id: text(json['id'], `${where}.id`),
    name: text(json['name'], `${where}.name`),
    keptAt: text(json['keptAt'], `${where}.keptAt`),
    tracks: tracksOf(json, `${where}.`),
    target: requireTarget(object(json['target'], `${where}.target`)),
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
  const versions = json['versions'] === undefined ? [] : list(json['versions'], 'versions').map((item, i) => version(item, `versions[${i}]`));
  if (versions.length > MOST_VERSIONS) fail('versions', `must be ${MOST_VERSIONS} or fewer`);
  return {
    schemaVersion: SCHEMA_VERSION,
    sampleRateHz: frame(json['sampleRateHz'], 'sampleRateHz'),
    tracks: tracksOf(json, ''),
    target: requireTarget(object(json['target'], 'target')),
    versions,
  };
}

/** True for the errors that reading a document throws. */
export const isDocumentError = (error: unknown): error is EngineError | DspError =>
  error instanceof EngineError || error instanceof DspError;
