import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { copyFile, link, mkdir, open, rename, rm, stat, readdir, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { asMediaError } from '@euphonos/media';
import { requireRoom, spaceOf, type Space } from './room.js';

/** Bytes by their SHA-256. What is in it never changes; putting the same bytes twice keeps one copy. */
export interface MediaStore {
  /** Whether a file of that size can come in. @throws {MediaError} `file-large`, `disk-full` */
  requireRoom(expectedBytes: number | undefined): Promise<void>;
  space(): Promise<Space>;
  /** All that it holds, without work files. */
  list(): AsyncGenerator<{ readonly sha: string; readonly sizeBytes: number }>;
  /** Takes a stream to its end. Nothing stays behind when it breaks off. */
  put(bytes: AsyncIterable<Uint8Array>): Promise<{ sha: string; sizeBytes: number }>;
  /** Takes over a finished file, which is moved. */
  adopt(path: string): Promise<{ sha: string; sizeBytes: number }>;
  /** The same for one that stays where it lies, on the same disk: it is there under both names. */
  link(path: string): Promise<{ sha: string; sizeBytes: number }>;
  /** A local path to read from. */
  path(sha: string): string;
  /** Keeps bytes from being swept for a moment, as if they had just come; false where they are not there. */
  touch(sha: string): Promise<boolean>;
  /** A path for a work file, beside the store so that adopting it is a rename. */
  workPath(): Promise<string>;
  /** Removes what is not in `keep`, and work files of processes that were killed. Returns the number of files. */
  sweep(keep: ReadonlySet<string>): Promise<number>;
}

/** SHA-256 of a file, in hexadecimal. */
export async function shaOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/** Bytes may be in the store a moment before anything refers to them. */
const YOUNG_MS = 60_000;
/** A work file that nobody has touched for so long belongs to a process that was killed. */
const ABANDONED_MS = 3_600_000;

/** A directory: media/ab/cdef…, work files in media/work. */
export class DirectoryStore implements MediaStore {
  constructor(private readonly folder: string) {}

  path(sha: string): string {
    return join(this.folder, sha.slice(0, 2), sha.slice(2));
  }

  async touch(sha: string): Promise<boolean> {
    const now = new Date();
    return utimes(this.path(sha), now, now).then(
      () => true,
      () => false,
    );
  }

  async workPath(): Promise<string> {
    await mkdir(join(this.folder, 'work'), { recursive: true });
    return join(this.folder, 'work', randomUUID());
  }

  async requireRoom(expectedBytes: number | undefined): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    await requireRoom(this.folder, expectedBytes);
  }

  async space(): Promise<Space> {
    await mkdir(this.folder, { recursive: true });
    return spaceOf(this.folder);
  }

  async *list(): AsyncGenerator<{ readonly sha: string; readonly sizeBytes: number }> {
    for (const folder of await readdir(this.folder).catch(() => []))
      for (const name of /^[0-9a-f]{2}$/.test(folder) ? await readdir(join(this.folder, folder)) : []) {
        const stats = await stat(join(this.folder, folder, name)).catch(() => undefined);
        if (stats) yield { sha: folder + name, sizeBytes: stats.size };
      }
  }

  async put(bytes: AsyncIterable<Uint8Array>): Promise<{ sha: string; sizeBytes: number }> {
    const path = await this.workPath();
    const hash = createHash('sha256');
    let sizeBytes = 0;
    try {
      const file = await open(path, 'wx');
      try {
        for await (const chunk of bytes) {
          hash.update(chunk);
          for (let at = 0; at < chunk.length;) at += (await file.write(chunk, at)).bytesWritten;
          sizeBytes += chunk.length;
        }
        await file.sync();
      } finally {
        await file.close();
      }
      return { sha: await this.#place(path, hash.digest('hex')), sizeBytes };
    } catch (error) {
      await rm(path, { force: true });
      throw asMediaError(error);
    }
  }

  async adopt(path: string): Promise<{ sha: string; sizeBytes: number }> {
    const sha = await shaOfFile(path);
    const { size } = await stat(path);
    return { sha: await this.#place(path, sha), sizeBytes: size };
  }

  async link(path: string): Promise<{ sha: string; sizeBytes: number }> {
    const sha = await shaOfFile(path);
    const { size } = await stat(path);
    const target = this.path(sha);
    try {
      await mkdir(dirname(target), { recursive: true });
      await link(path, target).catch(async (error: NodeJS.ErrnoException) => {
        if (error.code === 'EEXIST') return;
        // Another disk, or one that knows no second names.
        const copy = await this.workPath();
        await copyFile(path, copy);
        await rename(copy, target);
      });
      // It came long ago, maybe; nothing refers to it yet.
      await this.touch(sha);
      return { sha, sizeBytes: size };
    } catch (error) {
      throw asMediaError(error);
    }
  }

  async #place(path: string, sha: string): Promise<string> {
    const target = this.path(sha);
    await mkdir(dirname(target), { recursive: true });
    await rename(path, target);
    return sha;
  }

  async sweep(keep: ReadonlySet<string>): Promise<number> {
    let removed = 0;
    for (const folder of await readdir(this.folder).catch(() => []))
      for (const name of await readdir(join(this.folder, folder)).catch(() => [])) {
        const path = join(this.folder, folder, name);
        const least = folder === 'work' ? ABANDONED_MS : YOUNG_MS;
        const stats = await stat(path).catch(() => undefined);
        if (!stats || keep.has(folder + name) || Date.now() - stats.mtimeMs < least) continue;
        await rm(path, { force: true, recursive: true });
        removed++;
      }
    return removed;
  }
}

export const MEDIA_STORE = Symbol('MediaStore');
