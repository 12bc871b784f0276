import { EngineError } from '../errors.js';
import { MOST_VERSIONS, type SessionDocument, type Version } from './document.js';

/** The document with its present settings kept under a name. */
export function keepVersion(document: SessionDocument, { id, name, keptAt }: Pick<Version, 'id' | 'name' | 'keptAt'>): SessionDocument {
  if (document.versions.length >= MOST_VERSIONS)
    throw new EngineError('versions-many', `A session keeps up to ${MOST_VERSIONS} versions; drop one first.`, { most: MOST_VERSIONS });
  const { tracks, target, chain, wholeNoise, versions } = document;
  const version = { id, name: name.trim().slice(0, 120) || 'Version', keptAt, tracks, target, chain, wholeNoise };
  return { ...document, versions: [...versions, version] };
}

/** The version of that id. @throws {EngineError} `version-unknown` */
export function requireVersion({ versions }: SessionDocument, id: string): Version {
  const found = versions.find((version) => version.id === id);
  if (!found) throw new EngineError('version-unknown', 'This version is not kept any more.', { id });
  return found;
}

/** The document as it was in a version; the versions themselves stay. */
export function restoreVersion(document: SessionDocument, id: string): SessionDocument {
  const { tracks, target, chain, wholeNoise } = requireVersion(document, id);
  return { ...document, tracks, target, chain, wholeNoise };
}

export const dropVersion = (document: SessionDocument, id: string): SessionDocument => {
  const gone = requireVersion(document, id);
  return { ...document, versions: document.versions.filter((version) => version !== gone) };
};
