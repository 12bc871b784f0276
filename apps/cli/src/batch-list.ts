import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { CheckLine } from '@euphonos/engine';
import { asMediaError } from '@euphonos/media';

/** What became of one file of a batch. */
export interface BatchEntry {
  readonly file: string;
  /** Size and time of change of the source: what was done of another file under that name counts for nothing. */
  readonly sourceBytes: number;
  readonly sourceMs: number;
  readonly state: 'done' | 'failed';
  readonly out: string | null;
  /** Why it failed; null where it did not. */
  readonly problem: string | null;
  /** What somebody should listen to, and why; empty where nothing stood out. */
  readonly needsEar: readonly string[];
  readonly sheet: readonly CheckLine[] | null;
}

interface Stored {
  /** What was asked: another wish begins anew. */
  readonly asked: string;
  readonly entries: readonly BatchEntry[];
}

/** Kept beside the results, whole at any moment: it is replaced, never written over. */
export const LIST_NAME = 'batch.json';

/** What an earlier run with the same wish left in a folder. */
export async function readList(folder: string, asked: string): Promise<readonly BatchEntry[]> {
  try {
    const stored = JSON.parse(await readFile(join(folder, LIST_NAME), 'utf8')) as Stored;
    return stored.asked === asked ? stored.entries : [];
  } catch {
    return [];
  }
}

/** @throws {MediaError} `disk-full`: the list before it stays */
export async function writeList(folder: string, asked: string, entries: readonly BatchEntry[]): Promise<void> {
  const path = join(folder, LIST_NAME);
  try {
    await writeFile(`${path}.part`, `${JSON.stringify({ asked, entries } satisfies Stored, null, 2)}\n`);
    await rename(`${path}.part`, path);
  } catch (error) {
    await rm(`${path}.part`, { force: true });
    throw asMediaError(error);
  }
}

/** Whether an entry still holds: the same source, and its result is there. */
export async function stillHolds(
  entry: BatchEntry,
  folder: string,
  source: { readonly size: number; readonly mtimeMs: number },
): Promise<boolean> {
  if (entry.state !== 'done' || entry.sourceBytes !== source.size || entry.sourceMs !== source.mtimeMs) return false;
  return stat(join(folder, entry.out!)).then(
    (stats) => stats.isFile() && stats.size > 0,
    () => false,
  );
}
