/** What can be wrong with a request to this package. */
export type DspErrorCode =
  | 'fft-size'
  | 'filter-frequency'
  | 'sample-rate'
  | 'channel-count'
  | 'chain-shape'
  | 'treatment-unknown'
  | 'parameter-unknown'
  | 'parameter-type'
  | 'parameter-range'
  | 'parameter-conflict'
  | 'noise-missing'
  | 'opinion-missing'
  | 'noise-span'
  | 'noise-too-short'
  | 'profile-mismatch'
  | 'profile-file';

/** An error that a caller can act on: the message says what, the limit, what was given and what to do. */
export class DspError extends Error {
  constructor(
    readonly code: DspErrorCode,
    message: string,
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'DspError';
  }
}
