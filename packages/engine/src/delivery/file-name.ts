import { EngineError } from '../errors.js';

/** What a pattern of a file name may name, and what stands for it. */
export interface NameParts {
  readonly session: string;
  /** What is rendered by itself; nothing for the mix. */
  readonly track: string | null;
  readonly production: string | null;
  readonly target: string;
  /** YYYY-MM-DD. */
  readonly date: string;
  /** The how manieth delivery of the session it is. */
  readonly number: number;
}

export const namePlaces = ['session', 'track', 'production', 'target', 'date', 'number'] as const;
/** Where nothing else is asked for. */
export const USUAL_NAME = '{session}, {track} (cleaned)';
export const LONGEST_PATTERN = 120;
/** In bytes of UTF-8, without the ending: disks take 255. */
const LONGEST_NAME = 200;

/** Reads a pattern from untrusted JSON; nothing is none. @throws {EngineError} `target-name` with what a pattern may name */
export function requireNamePattern(json: unknown): string | null {
  if (json === undefined || json === null || json === '') return null;
  const refuse = (message: string): never => {
    throw new EngineError('target-name', message, { given: json });
  };
  if (typeof json !== 'string' || json.length > LONGEST_PATTERN)
    return refuse(`A pattern of file names has up to ${LONGEST_PATTERN} signs; ${JSON.stringify(json)} was given.`);
  const unknown = [...json.matchAll(/\{([^{}]*)\}/g)].find(([, place]) => !namePlaces.some((known) => known === place));
  if (unknown)
    return refuse(`A pattern of file names knows ${namePlaces.map((place) => `{${place}}`).join(', ')}; ${unknown[0]} was given.`);
  return json;
}

/** As a disk takes it: no separators, nothing that some system refuses, not too long. */
export function safeName(name: string): string {
  // Control characters, and what one or another file system keeps for itself.
  let kept = Array.from(name.replace(/[\p{Cc}\p{Cs}]/gu, '').replace(/[/\\:*?"<>|]/g, '-'));
  while (encodeURIComponent(kept.join('')).replace(/%../g, '.').length > LONGEST_NAME) kept = kept.slice(0, -1);
  return kept.join('').replace(/^[.\s]+|[.\s]+$/g, '');
}

/** The name of a delivery, without its ending. Of what there is not, the comma or dash before it goes, too. */
export function fileNameOf(pattern: string | null, parts: NameParts): string {
  const values: Readonly<Record<string, string>> = {
    session: parts.session,
    track: parts.track ?? '',
    production: parts.production ?? '',
    target: parts.target,
    date: parts.date,
    number: String(parts.number).padStart(2, '0'),
  };
  const filled = (pattern ?? USUAL_NAME).replace(/([\s,–_-]*)\{(\w+)\}/g, (_, before: string, place: string) =>
    values[place] ? `${before}${values[place]}` : '',
  );
  return safeName(filled.replace(/^[\s,–_-]+/, '')) || safeName(parts.session) || 'delivery';
}
