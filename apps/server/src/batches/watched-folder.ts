import { copyFile, mkdir, readdir, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Where files that were taken go, and results appear, within a watched folder. */
export const TAKEN = 'taken';
export const RESULTS = 'done';
const SOUND = /\.(wav|wave|w64|rf64|bwf|aiff?|flac|mp3|m4a|aac|ogg|oga|opus|mp4|mov|mkv|webm)$/i;

/** A folder's name: what can be read of the batch's, and enough of its id that no two have one. */
export const folderName = (name: string, id: string): string =>
  `${
    name
      .normalize('NFKD')
      .replace(/[^\w -]/g, '')
      .trim()
      .replace(/\s+/g, '-')
      .slice(0, 60) || 'batch'
  }-${id.slice(0, 8)}`;

/** A folder that files are put into. One is taken when it has not grown or changed since it was looked at last. */
export class WatchedFolder {
  #seen = new Map<string, string>();

  constructor(readonly path: string) {}

  async make(): Promise<void> {
    for (const folder of [this.path, join(this.path, TAKEN), join(this.path, RESULTS)]) await mkdir(folder, { recursive: true });
  }

  /** Names of files that lie still, in their order. */
  async ready(): Promise<string[]> {
    const now = new Map<string, string>();
    const still: string[] = [];
    const entries = await readdir(this.path, { withFileTypes: true });
    for (const entry of entries) {
      if (!entry.isFile() || entry.name.startsWith('.') || !SOUND.test(entry.name)) continue;
      const { size, mtimeMs } = await stat(join(this.path, entry.name));
      const state = `${size}/${mtimeMs}`;
      now.set(entry.name, state);
      if (size > 0 && this.#seen.get(entry.name) === state) still.push(entry.name);
    }
    this.#seen = now;
    return still.sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  }

  /** Puts a file where it is not taken again; of a name that lies there already a number makes another. */
  async putAway(name: string): Promise<void> {
    this.#seen.delete(name);
    await rename(join(this.path, name), await free(join(this.path, TAKEN), name));
  }

  /** A result, complete when it appears; of a name that lies there already a number makes another. */
  async result(fromPath: string, name: string): Promise<void> {
    const folder = join(this.path, RESULTS);
    const part = join(folder, `.${name}.part`);
    await copyFile(fromPath, part);
    await rename(part, await free(folder, name));
  }
}

async function free(folder: string, name: string): Promise<string> {
  const taken = new Set(await readdir(folder));
  const [, bare, ending] = /^(.*?)(\.[^.]*)?$/.exec(name)!;
  for (let i = 1, wished = name; ; wished = `${bare} (${++i})${ending ?? ''}`) if (!taken.has(wished)) return join(folder, wished);
}
