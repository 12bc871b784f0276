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
  | 'disk-read-only'
  | 'disk-failed'
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

const DISK_FULL = new MediaError(
  'disk-full',
  'The disk is full: nothing was kept of this file, everything else is safe. Free some space and try again.',
);
const DISK_READ_ONLY = new MediaError(
  'disk-read-only',
  'The disk can only be read at the moment: nothing was kept of this file; everything that is there is safe, and is heard as before. Whoever looks after the server should look at the disk and at who may write there.',
);
const DISK_FAILED = new MediaError(
  'disk-failed',
  'The disk reports a fault: nothing was kept of this file. Whoever looks after the server should look at the disk, and make a backup soon.',
);
const OF_DISKS: Readonly<Record<string, MediaError>> = {
  ENOSPC: DISK_FULL,
  EDQUOT: DISK_FULL,
  EROFS: DISK_READ_ONLY,
  EACCES: DISK_READ_ONLY,
  EPERM: DISK_READ_ONLY,
  EIO: DISK_FAILED,
};

/** Names a disk that is full, that can only be read, or that fails as what it is; passes every other error on. */
export function asMediaError(error: unknown): unknown {
  const known = OF_DISKS[(error as NodeJS.ErrnoException | undefined)?.code ?? ''];
  return known ? new MediaError(known.code, known.message) : error;
}
