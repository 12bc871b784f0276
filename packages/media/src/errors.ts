export type MediaErrorCode =
  | 'file-missing'
  | 'file-empty'
  | 'file-large'
  | 'not-audio'
  | 'sample-rate'
  | 'channel-count'
  | 'too-long'
  | 'channel-missing'
  | 'ffmpeg-missing'
  | 'tool-limit'
  | 'decode-failed'
  | 'encode-failed'
  | 'no-picture'
  | 'bundle-file'
  | 'print-failed'
  | 'noise-span'
  | 'disk-full'
  | 'store-away'
  | 'samples-away'
  | 'cancelled';

/** An error with sound files that a caller can act on. */
export class MediaError extends Error {
  constructor(
    readonly code: MediaErrorCode,
    message: string,
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'MediaError';
  }
}

/** Names a full disk as what it is; passes every other error on. */
export function asMediaError(error: unknown): unknown {
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  if (code === 'ENOSPC' || code === 'EDQUOT')
    return new MediaError(
      'disk-full',
      'The disk is full: nothing was kept of this file, everything else is safe. Free some space and try again.',
    );
  return error;
}
