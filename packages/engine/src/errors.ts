export type EngineErrorCode =
  | 'document-shape'
  | 'document-version'
  | 'track-unknown'
  | 'clip-unknown'
  | 'line-too-long'
  | 'place-taken'
  | 'chain-file'
  | 'marks-many'
  | 'mark-unknown'
  | 'marks-file'
  | 'clips-none'
  | 'clips-many'
  | 'nothing-cut'
  | 'tone-missing'
  | 'treatment-missing'
  | 'span-outside'
  | 'passages-many'
  | 'tracks-one'
  | 'tracks-many'
  | 'reel-full'
  | 'rate-other'
  | 'length-other'
  | 'versions-many'
  | 'version-unknown'
  | 'target-range'
  | 'target-file'
  | 'target-name'
  | 'timeline-file'
  | 'json-large'
  | 'json-deep'
  | 'json-broken'
  | 'bundle-file'
  | 'bundle-version'
  | 'level-unknown';

/** An error of the document or its edits that a caller can act on. */
export class EngineError extends Error {
  constructor(
    readonly code: EngineErrorCode,
    message: string,
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'EngineError';
  }
}
