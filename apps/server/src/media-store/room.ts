import { statfs } from 'node:fs/promises';
import { formatBytes } from '@euphonos/engine';
import { MediaError } from '@euphonos/media';

/** A day of eight channels at 192 kHz in 24 bits would be six times that; a day of eight at 48 kHz in 16 bits is this. */
export const MOST_FILE_BYTES = 64 * 2 ** 30;
/** Left to the database and to what is at work. */
const RESERVE_BYTES = 256 * 2 ** 20;

/** So little is left of the disk that everybody is told, and that what can be made again makes room; at least as much as is wished. */
const LITTLE_SHARE = 0.05;

/** Of a disk. */
export interface Space {
  readonly freeBytes: number;
  readonly totalBytes: number;
}

export const spaceOf = async (folder: string): Promise<Space> => {
  const { bavail, blocks, bsize } = await statfs(folder);
  return { freeBytes: bavail * bsize, totalBytes: blocks * bsize };
};

/** How much is missing until a disk is no longer nearly full; 0 when it is not. */
export const missingRoom = ({ freeBytes, totalBytes }: Space, keepFreeBytes: number): number =>
  Math.max(0, Math.max(keepFreeBytes, LITTLE_SHARE * totalBytes) - freeBytes);

const tooLarge = (): MediaError =>
  new MediaError(
    'file-large',
    `The file is larger than ${MOST_FILE_BYTES / 2 ** 30} GB, which is the most that is taken. Nothing was kept of it.`,
  );

/**
 * Whether a file of that size can come in, asked before its first byte does.
 * @throws {MediaError} `file-large`, `disk-full`
 */
export async function requireRoom(folder: string, expectedBytes: number | undefined, space = spaceOf): Promise<void> {
  if (expectedBytes === undefined) return;
  if (expectedBytes > MOST_FILE_BYTES) throw tooLarge();
  const free = Math.max(0, (await space(folder)).freeBytes - RESERVE_BYTES);
  if (expectedBytes > free)
    throw new MediaError(
      'disk-full',
      `The file has ${formatBytes(expectedBytes)}; ${formatBytes(free)} are free for it. Nothing was kept of it, everything else is safe. Free some space and try again.`,
    );
}

/** The same bytes, up to the size that is taken. @throws {MediaError} `file-large` */
export async function* withinSize(bytes: AsyncIterable<Uint8Array>, mostBytes = MOST_FILE_BYTES): AsyncGenerator<Uint8Array> {
  let taken = 0;
  for await (const part of bytes) {
    if ((taken += part.length) > mostBytes) throw tooLarge();
    yield part;
  }
}
