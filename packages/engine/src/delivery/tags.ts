import { EngineError } from '../errors.js';

/** What a file says of itself; an empty text says nothing. Without a title a file has its own name. */
export interface Tags {
  readonly title: string;
  readonly artist: string;
  readonly album: string;
  readonly date: string;
  readonly comment: string;
}

export const NO_TAGS: Tags = { title: '', artist: '', album: '', date: '', comment: '' };
export const tagKeys = ['title', 'artist', 'album', 'date', 'comment'] as const satisfies readonly (keyof Tags)[];
export const LONGEST_TAG = 500;

/** Reads tags from untrusted JSON; what is left out is empty. @throws {EngineError} `target-file` */
export function requireTags(json: unknown): Tags {
  if (json === undefined || json === null) return NO_TAGS;
  const given = (typeof json === 'object' ? json : {}) as Partial<Record<keyof Tags, unknown>>;
  const read = (key: keyof Tags): string => {
    const value = given[key] ?? '';
    if (typeof value !== 'string' || value.length > LONGEST_TAG)
      throw new EngineError('target-file', `The ${key} of a file is a text of up to ${LONGEST_TAG} signs.`, { given: value });
    // Ends of lines are kept in the comment only; other control characters nowhere.
    return value.replace(key === 'comment' ? /[^\P{Cc}\n]/gu : /\p{Cc}/gu, ' ');
  };
  return { title: read('title'), artist: read('artist'), album: read('album'), date: read('date'), comment: read('comment') };
}
