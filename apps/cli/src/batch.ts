import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { needsProfile, type ChainSpec } from '@euphonos/dsp';
import { missesOf, suggestedChain } from '@euphonos/engine';
import { probeSound } from '@euphonos/media';
import { readList, stillHolds, writeList, type BatchEntry } from './batch-list.js';
import { chainOf } from './chain-of.js';
import { cleanFile, type CleanOptions } from './clean.js';
import { findingsOf } from './survey.js';
import { UsageError } from './usage.js';

export interface BatchOptions extends Omit<CleanOptions, 'chainJson' | 'output' | 'keepOthers' | 'noise'> {
  /** null: each file gets what its own survey suggests. */
  readonly chainJson: unknown;
  /** One profile for all; left out, each file's own is found. */
  readonly noise: CleanOptions['noise'];
  /** Ending of the results, without its point. */
  readonly to: string;
}

const SOUND = /\.(wav|wave|w64|rf64|bwf|aiff?|flac|mp3|m4a|aac|ogg|oga|opus|mp4|mov|mkv|webm)$/i;

/** Files of a folder that may hold sound, in the order of their names. */
async function soundsOf(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => {
    throw new UsageError(`There is no folder "${folder}".`);
  });
  const names = entries.filter((entry) => entry.isFile() && SOUND.test(entry.name) && !entry.name.startsWith('.')).map(({ name }) => name);
  if (names.length === 0) throw new UsageError(`No sound file lies in "${folder}".`);
  return names.sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
}

/** A name for each result: that of its source, with a number where another result has it already. */
export function resultNames(names: readonly string[], to: string): ReadonlyMap<string, string> {
  const taken = new Set<string>();
  return new Map(
    names.map((name) => {
      const bare = basename(name, extname(name));
      let result = `${bare}.${to}`;
      // Some disks do not tell capitals apart.
      for (let i = 2; taken.has(result.toLowerCase()); i++) result = `${bare} (${i}).${to}`;
      taken.add(result.toLowerCase());
      return [name, result];
    }),
  );
}

const channelsOf = async (path: string): Promise<number[]> => ((await probeSound(path)).channels === 1 ? [0] : [0, 1]);

/** A passage that is less steady than this is not noise alone for sure. Common practice, no source. */
const STEADY_DB = 3;
/** What the treatment of a file says that somebody should hear. */
const earOf = (note: string): string | null => {
  const unsteady = /^noise profiled from .* steady within ([\d.]+) dB\.$/.exec(note);
  if (unsteady) return Number(unsteady[1]) > STEADY_DB ? `Its noise is not steady: ${note}` : null;
  return /^(breaths|gate|pauses):/.test(note) ? null : note;
};

/**
 * Cleans every sound file of a folder, each by itself: what fails does not stop the rest, and a run that was broken off goes on where it was.
 * @param told is called after every file
 */
export async function cleanBatch(
  folder: string,
  outFolder: string,
  options: BatchOptions,
  told: (entry: BatchEntry, done: number, all: number) => void,
): Promise<readonly BatchEntry[]> {
  const names = await soundsOf(folder);
  await mkdir(outFolder, { recursive: true });
  const results = resultNames(names, options.to);
  const asked = JSON.stringify([options.chainJson, options.noise ?? null, options.file, options.to, options.channels ?? null]);
  const known = new Map((await readList(outFolder, asked)).map((entry) => [entry.file, entry]));
  const entries: BatchEntry[] = [];
  for (const file of names) {
    const source = await stat(join(folder, file));
    const before = known.get(file);
    const entry =
      before && (await stillHolds(before, outFolder, source))
        ? before
        : await one(join(folder, file), outFolder, results.get(file)!, options);
    entries.push(entry);
    // Whatever ends this run, what was done until here is known.
    await writeList(outFolder, asked, [...entries, ...names.slice(entries.length).flatMap((name) => known.get(name) ?? [])]);
    told(entry, entries.length, names.length);
  }
  return entries;
}

async function one(path: string, outFolder: string, out: string, options: BatchOptions): Promise<BatchEntry> {
  const source = await stat(path);
  const about = { file: basename(path), sourceBytes: source.size, sourceMs: source.mtimeMs };
  const needsEar: string[] = [];
  const note = (text: string): void => {
    const ear = earOf(text);
    if (ear !== null) needsEar.push(ear);
  };
  try {
    const chainJson = options.chainJson ?? suggestedChain(await findingsOf(path, options.channels ?? (await channelsOf(path))));
    const chain: ChainSpec = chainOf(chainJson);
    const weighs = chain.treatments.some((settings) => !settings.bypassed && needsProfile(settings));
    const sheet = await cleanFile(
      path,
      join(outFolder, out),
      { ...options, chainJson, output: 'result', keepOthers: true, noise: options.noise ?? (weighs ? 'auto' : undefined) },
      note,
    );
    return { ...about, state: 'done', out, problem: null, needsEar: [...needsEar, ...missesOf(sheet ?? [])], sheet };
  } catch (error) {
    await rm(join(outFolder, out), { force: true });
    return { ...about, state: 'failed', out: null, problem: (error as Error).message.replace(/\s*\n\s*/g, ' '), needsEar: [], sheet: null };
  }
}
