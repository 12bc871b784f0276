import { DirectoryStore } from './directory-store.js';

/** What was used so lately is not let go: somebody may be about to open it. */
const IN_USE_MS = 5 * 60_000;
/** When it is too much, it is brought down to this share, so that this is not done with every file. */
const DOWN_TO = 0.9;

/** A folder store of what is at hand of another one, held to a size: what was not used for longest goes first. Several processes may share it. */
export class BoundedCache extends DirectoryStore {
  /** Since it was looked at; at the start nobody knows. */
  #cameBytes = Infinity;

  constructor(
    folder: string,
    private readonly mostBytes: number,
  ) {
    super(folder);
  }

  /** Told that a file has come. */
  async came(sizeBytes: number): Promise<void> {
    this.#cameBytes += sizeBytes;
    if (this.#cameBytes <= this.mostBytes * (1 - DOWN_TO)) return;
    this.#cameBytes = 0;
    const { shas, totalBytes } = await this.#all();
    if (totalBytes > this.mostBytes) await this.letGo(shas, totalBytes - this.mostBytes * DOWN_TO, IN_USE_MS);
  }

  /** Makes so much room, as far as it is not in use. @returns bytes that were freed */
  async letGoOf(wantedBytes: number): Promise<number> {
    return this.letGo((await this.#all()).shas, wantedBytes, IN_USE_MS);
  }

  async #all(): Promise<{ readonly shas: string[]; readonly totalBytes: number }> {
    const shas: string[] = [];
    let totalBytes = 0;
    for await (const { sha, sizeBytes } of this.list()) {
      shas.push(sha);
      totalBytes += sizeBytes;
    }
    return { shas, totalBytes };
  }
}
