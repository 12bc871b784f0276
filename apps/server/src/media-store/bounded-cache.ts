import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { DirectoryStore } from './directory-store.js';

/** What was used so lately is not let go: somebody may be about to open it. */
const IN_USE_MS = 5 * 60_000;
/** When it is too much, it is brought down to this share, so that this is not done with every file. */
const DOWN_TO = 0.9;

interface Held {
  readonly path: string;
  readonly size: number;
  readonly usedMs: number;
}

/** A folder store of what is at hand of another one, held to a size: what was not used for longest goes first. Several processes may share it. */
export class BoundedCache extends DirectoryStore {
  #cameBytes = Infinity;

  constructor(
    private readonly root: string,
    private readonly mostBytes: number,
  ) {
    super(root);
  }

  /** Told that a file has come. */
  async came(sizeBytes: number): Promise<void> {
    this.#cameBytes += sizeBytes;
    if (this.#cameBytes > this.mostBytes * (1 - DOWN_TO)) await this.#hold();
  }

  /** Down to its size. */
  async #hold(): Promise<void> {
    this.#cameBytes = 0;
    const files = await this.#files();
    const total = files.reduce((sum, { size }) => sum + size, 0);
    if (total > this.mostBytes) await this.#remove(files, total - this.mostBytes * DOWN_TO);
  }

  /** Makes so much room, as far as it is not in use. @returns bytes that were freed */
  async letGoOf(wantedBytes: number): Promise<number> {
    return this.#remove(await this.#files(), wantedBytes);
  }

  async #files(): Promise<Held[]> {
    const files: Held[] = [];
    for (const folder of await readdir(this.root).catch(() => []))
      for (const name of /^[0-9a-f]{2}$/.test(folder) ? await readdir(join(this.root, folder)).catch(() => []) : []) {
        const path = join(this.root, folder, name);
        const stats = await stat(path).catch(() => undefined);
        if (stats) files.push({ path, size: stats.size, usedMs: stats.mtimeMs });
      }
    return files;
  }

  async #remove(files: Held[], wantedBytes: number): Promise<number> {
    let freed = 0;
    for (const { path, size, usedMs } of files.sort((a, b) => a.usedMs - b.usedMs)) {
      if (freed >= wantedBytes || Math.abs(Date.now() - usedMs) < IN_USE_MS) break;
      await rm(path, { force: true });
      freed += size;
    }
    return freed;
  }
}
