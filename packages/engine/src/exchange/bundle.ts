import { parseProfileFile, type NoiseProfileFile } from '@euphonos/dsp';
import type { SessionDocument } from '../document/document.js';
import { list, object, text, type Json } from '../document/json.js';
import { parseDocument } from '../document/parse.js';
import { EngineError } from '../errors.js';

export const BUNDLE_FORMAT = 'euphonos-bundle';
export const BUNDLE_VERSION = 1;
export const MOST_BUNDLED_SESSIONS = 1000;
export const MOST_BUNDLED_RECORDINGS = 20_000;

/** A file that was brought in, as it lies in a bundle: `sources/<sha256>`. */
export interface BundledRecording {
  readonly id: string;
  readonly fileName: string;
  readonly sizeBytes: number;
  /** Of its bytes, in hexadecimal. */
  readonly sha256: string;
  /** How it is read: the rate that it is brought to, or null for its own; how much longer it is made. */
  readonly rateHz: number | null;
  readonly driftPpm: number;
}

export interface BundledSession {
  readonly name: string;
  readonly document: SessionDocument;
  /** Ids of its recordings, in the order in which they were brought in. */
  readonly recordingIds: readonly string[];
}

export interface BundledProfile {
  readonly id: string;
  readonly name: string;
  readonly file: NoiseProfileFile;
}

/** What `bundle.json` says: see docs/bundle.md. */
export interface Bundle {
  readonly format: typeof BUNDLE_FORMAT;
  readonly version: typeof BUNDLE_VERSION;
  /** Of the production, where it is one; else null. */
  readonly production: string | null;
  readonly sessions: readonly BundledSession[];
  readonly recordings: readonly BundledRecording[];
  readonly profiles: readonly BundledProfile[];
}

const refuse = (message: string): never => {
  throw new EngineError('bundle-file', `${message} Nothing was taken over.`);
};
const number = (value: unknown, where: string, least: number, most: number): number =>
  typeof value === 'number' && value >= least && value <= most
    ? value
    : refuse(`${where} in bundle.json is no number from ${least} to ${most}.`);

function recording(value: unknown, where: string): BundledRecording {
  const json = object(value, where);
  const sha256 = text(json['sha256'], `${where}.sha256`);
  if (!/^[0-9a-f]{64}$/.test(sha256)) refuse(`${where}.sha256 in bundle.json is no SHA-256.`);
  return {
    id: text(json['id'], `${where}.id`),
    fileName: text(json['fileName'], `${where}.fileName`),
    sizeBytes: number(json['sizeBytes'], `${where}.sizeBytes`, 1, Number.MAX_SAFE_INTEGER),
    sha256,
    rateHz: json['rateHz'] === null ? null : number(json['rateHz'], `${where}.rateHz`, 8000, 192_000),
    driftPpm: number(json['driftPpm'] ?? 0, `${where}.driftPpm`, -5000, 5000),
  };
}

function session(value: unknown, where: string, known: ReadonlySet<string>): BundledSession {
  const json = object(value, where);
  const recordingIds = list(json['recordingIds'], `${where}.recordingIds`).map((id) => text(id, `${where}.recordingIds`));
  const strange = recordingIds.find((id) => !known.has(id));
  if (strange !== undefined || recordingIds.length === 0)
    refuse(`"${String(json['name'])}" asks for a recording that is not in the bundle.`);
  const document = parseDocument(json['document']);
  for (const track of document.tracks)
    for (const { recordingId } of track.reel)
      if (!recordingIds.includes(recordingId))
        refuse(`A track of "${String(json['name'])}" asks for a recording that is not in the bundle.`);
  return { name: text(json['name'], `${where}.name`), document, recordingIds };
}

/**
 * Reads `bundle.json`.
 * @throws {EngineError} `bundle-version` for a newer one, `bundle-file`, `document-shape`, `document-version`; {DspError} for chains and profiles
 */
export function parseBundle(value: unknown): Bundle {
  const json: Json = object(value, 'bundle.json');
  if (json['format'] !== BUNDLE_FORMAT) refuse('This is no bundle of Euphonos: bundle.json says something else.');
  const version = json['version'];
  if (typeof version !== 'number' || version > BUNDLE_VERSION)
    throw new EngineError(
      'bundle-version',
      `The bundle has version ${String(version)}; this program reads versions up to ${BUNDLE_VERSION}. Update the program. Nothing was taken over.`,
    );
  const recordings = list(json['recordings'], 'recordings');
  if (recordings.length > MOST_BUNDLED_RECORDINGS) refuse(`The bundle names more than ${MOST_BUNDLED_RECORDINGS} recordings.`);
  const read = recordings.map((item, i) => recording(item, `recordings[${i}]`));
  const ids = new Set(read.map(({ id }) => id));
  if (ids.size < read.length) refuse('Two recordings in bundle.json have the same id.');
  const sessions = list(json['sessions'], 'sessions');
  if (sessions.length === 0 || sessions.length > MOST_BUNDLED_SESSIONS)
    refuse(`A bundle holds 1 to ${MOST_BUNDLED_SESSIONS} sessions; this one has ${sessions.length}.`);
  return {
    format: BUNDLE_FORMAT,
    version: BUNDLE_VERSION,
    production: json['production'] === null || json['production'] === undefined ? null : text(json['production'], 'production'),
    sessions: sessions.map((item, i) => session(item, `sessions[${i}]`, ids)),
    recordings: read,
    profiles: list(json['profiles'] ?? [], 'profiles').map((item, i) => {
      const profile = object(item, `profiles[${i}]`);
      return {
        id: text(profile['id'], `profiles[${i}].id`),
        name: text(profile['name'], `profiles[${i}].name`),
        file: parseProfileFile(profile['file']),
      };
    }),
  };
}

/** A document with other ids in the place of those of recordings and kept profiles. */
export function withIds(document: SessionDocument, ids: ReadonlyMap<string, string>): SessionDocument {
  const of = (id: string): string => ids.get(id) ?? id;
  const tracks = (given: SessionDocument['tracks']): SessionDocument['tracks'] =>
    given.map((track) => ({
      ...track,
      reel: track.reel.map((part) => ({ ...part, recordingId: of(part.recordingId) })),
      noise: track.noise?.kind === 'kept' ? { ...track.noise, profileId: of(track.noise.profileId) } : track.noise,
    }));
  return {
    ...document,
    tracks: tracks(document.tracks),
    versions: document.versions.map((version) => ({ ...version, tracks: tracks(version.tracks) })),
  };
}

/** Kept profiles that a document asks for. */
export function profileIdsOf({ tracks, versions }: Pick<SessionDocument, 'tracks' | 'versions'>): string[] {
  const all = [...tracks, ...versions.flatMap((version) => version.tracks)];
  return [...new Set(all.flatMap(({ noise }) => (noise?.kind === 'kept' ? [noise.profileId] : [])))];
}

/** Everything whose bytes lie in a bundle, each once: recordings and covers. */
export function sourcesOf({
  recordings,
  sessions,
}: Pick<Bundle, 'recordings' | 'sessions'>): { readonly sha256: string; readonly sizeBytes: number; readonly name: string }[] {
  const sources = new Map<string, { readonly sha256: string; readonly sizeBytes: number; readonly name: string }>();
  for (const { sha256, sizeBytes, fileName } of recordings) sources.set(sha256, { sha256, sizeBytes, name: fileName });
  for (const { name, document } of sessions)
    if (document.cover) sources.set(document.cover.sha256, { ...document.cover, name: `the cover of ${name}` });
  return [...sources.values()];
}
