import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, constants, copyFile, link, mkdir, open, rename, rm, stat, readdir, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { asMediaError, MediaError } from '@euphonos/media';
import { YOUNG_MS, type MediaStore, type Stored } from './media-store.js';
import { requireRoom, spaceOf, type Space } from './room.js';

/** SHA-256 of a file, in hexadecimal. */
export async function shaOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/** What can be made again is not let go as long as somebody may be at work with it. */
const UNUSED_MS = 7 * 24 * 3_600_000;
/** A work file that nobody has touched for so long belongs to a process that was killed. */
const ABANDONED_MS = 3_600_000;

/** A directory: media/ab/cdef…, work files in media/work. */
export class DirectoryStore implements MediaStore {
  constructor(private readonly folder: string) {}

  /** Where it lies, or would. */
  place(sha: string): string {
    return join(this.folder, sha.slice(0, 2), sha.slice(2));
  }

  async path(sha: string): Promise<string> {
    if (!(await this.has(sha))) throw new MediaError('file-missing', 'The store does not have these bytes any more.');
    return this.place(sha);
  }

  /** When it was used stands in its time of access; when it came, in that of its change. */
  async has(sha: string): Promise<boolean> {
    const stats = await stat(this.place(sha)).catch(() => undefined);
    // Where it can only be read, nothing is let go of either.
    if (stats) await utimes(this.place(sha), new Date(), stats.mtime).catch(() => undefined);
    return stats !== undefined;
  }

  holding<Result>(work: () => Promise<Result>): Promise<Result> {
    return work();
  }

  async touch(sha: string): Promise<boolean> {
    const now = new Date();
    return utimes(this.place(sha), now, now).then(
      () => true,
      // What may only be read is there, too.
      ({ code }: NodeJS.ErrnoException) => code !== 'ENOENT' && code !== 'ENOTDIR',
    );
  }

  async workPath(): Promise<string> {
    await mkdir(join(this.folder, 'work'), { recursive: true });
    return join(this.folder, 'work', randomUUID());
  }

  async check(): Promise<void> {
    try {
      await mkdir(this.folder, { recursive: true });
      await access(this.folder, constants.W_OK);
    } catch (error) {
      throw asMediaError(error);
    }
  }

  async requireRoom(expectedBytes: number | undefined): Promise<void> {
    await this.check();
    await requireRoom(this.folder, expectedBytes);
  }

  async space(): Promise<Space> {
    await mkdir(this.folder, { recursive: true });
    return spaceOf(this.folder);
  }

  async *list(): AsyncGenerator<Stored> {
    for (const folder of await readdir(this.folder).catch(() => []))
      for (const name of /^[0-9a-f]{2}$/.test(folder) ? await readdir(join(this.folder, folder)) : []) {
        const stats = await stat(join(this.folder, folder, name)).catch(() => undefined);
        if (stats) yield { sha: folder + name, sizeBytes: stats.size };
      }
  }

  async put(bytes: AsyncIterable<Uint8Array>): Promise<Stored> {
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

  async adopt(path: string): Promise<Stored> {
    const sha = await shaOfFile(path);
    const { size } = await stat(path);
    // It came now, however long it took to read it once more.
    await utimes(path, new Date(), new Date());
    return { sha: await this.#place(path, sha), sizeBytes: size };
  }

  async link(path: string): Promise<Stored> {
    const sha = await shaOfFile(path);
    const { size } = await stat(path);
    const target = this.place(sha);
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
    const target = this.place(sha);
    await mkdir(dirname(target), { recursive: true });
    await rename(path, target);
    return sha;
  }

  async letGo(shas: readonly string[], wantedBytes: number, unusedMs = UNUSED_MS): Promise<number> {
    const unused: { readonly path: string; readonly sizeBytes: number; readonly usedMs: number }[] = [];
    for (const sha of shas) {
      const stats = await stat(this.place(sha)).catch(() => undefined);
      const usedMs = stats && Math.max(stats.atimeMs, stats.mtimeMs);
      if (stats && Date.now() - usedMs! > unusedMs) unused.push({ path: this.place(sha), sizeBytes: stats.size, usedMs: usedMs! });
    }
    let freedBytes = 0;
    for (const { path, sizeBytes } of unused.sort((a, b) => a.usedMs - b.usedMs)) {
      if (freedBytes >= wantedBytes) break;
      await rm(path, { force: true });
      freedBytes += sizeBytes;
    }
    return freedBytes;
  }

  async remove(shas: readonly string[]): Promise<void> {
    for (const sha of shas) await rm(this.place(sha), { force: true });
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
