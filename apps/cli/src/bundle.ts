import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  createDocument,
  requireTarget,
  safeName,
  type Bundle,
  type BundledRecording,
} from '@euphonos/engine';
import { asMediaError, decodeSound, newReport, openBundle, probeSound, writeBundle } from '@euphonos/media';
import { chainOf } from './chain-of.js';
import { resultNames } from './batch.js';
import { UsageError } from './usage.js';

export interface BundleOptions {
  /** The chain of every track, as it stands in its file; left out, the usual one to begin with. */
  readonly chainJson: unknown;
  readonly targetJson: unknown;
}

/** Rates that a session can have as they are. */
const SESSION_RATES_HZ = [44_100, 48_000, 88_200, 96_000];

async function shaOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const part of createReadStream(path)) hash.update(part as Buffer);
  return hash.digest('hex');
}

/** Frames of a recording at a rate, counted by decoding it: what its header says may be wrong. */
async function framesOf(path: string, rateHz: number): Promise<number> {
  const facts = await probeSound(path);
  const report = newReport();
  for await (const block of decodeSound(path, facts, { sampleRateHz: rateHz }, report)) void block;
  return report.frames;
}

/** Makes a bundle of files: one session with a track each, at the rate of the first. */
export async function bundleFiles(paths: readonly string[], outPath: string, { chainJson, targetJson }: BundleOptions): Promise<Bundle> {
  const first = (await probeSound(paths[0]!)).sampleRateHz;
  const rateHz = SESSION_RATES_HZ.includes(first) ? first : 48_000;
  const recordings: BundledRecording[] = [];
  const facts = [];
  const pathOf = new Map<string, string>();
  for (const [i, path] of paths.entries()) {
    const [sha256, { size }, { channels }] = [await shaOf(path), await stat(path), await probeSound(path)];
    const id = `r${i + 1}`;
    pathOf.set(sha256, path);
    recordings.push({ id, fileName: basename(path), sizeBytes: size, sha256, rateHz, driftPpm: 0 });
    facts.push({ id, name: basename(path, extname(path)), lengthFrames: await framesOf(path, rateHz), sampleRateHz: rateHz, channels });
  }
  const bare = createDocument(facts);
  const chain = chainJson === undefined ? null : chainOf(chainJson);
  const named = chain && { treatments: chain.treatments.map((settings, i) => ({ ...settings, id: settings.id ?? `t${i + 1}` })) };
  const document = {
    ...bare,
    ...(targetJson === undefined ? {} : { target: requireTarget(targetJson as object) }),
    tracks: named ? bare.tracks.map((track) => ({ ...track, chain: named })) : bare.tracks,
  };
  const bundle: Bundle = {
    format: BUNDLE_FORMAT,
    version: BUNDLE_VERSION,
    production: null,
    sessions: [{ name: facts[0]!.name, document, recordingIds: recordings.map(({ id }) => id) }],
    recordings,
    profiles: [],
  };
  const partPath = `${outPath}.part`;
  try {
    await pipeline(
      writeBundle(bundle, (sha) => pathOf.get(sha)!),
      createWriteStream(partPath),
    );
    await rename(partPath, outPath);
  } catch (error) {
    throw asMediaError(error);
  } finally {
    await rm(partPath, { force: true });
  }
  return bundle;
}

/** Checks a bundle to its last byte and puts what is in it into an empty folder: sources by their names, sessions and profiles as JSON. */
export async function unbundle(
  path: string,
  folder: string,
): Promise<{ readonly sources: readonly string[]; readonly sessions: readonly string[] }> {
  await mkdir(folder, { recursive: true });
  if ((await readdir(folder)).length > 0) throw new UsageError(`The folder "${folder}" is not empty; nothing is written over.`);
  const open = await openBundle(path);
  try {
    const { recordings, sessions, profiles } = open.bundle;
    const sources: string[] = [];
    const taken = new Set<string>();
    for (const { fileName, sha256 } of recordings) {
      // A name from elsewhere is a name, and no path.
      const bare = basename(fileName.replace(/\\/g, '/')).replace(/^\.+/, '') || 'recording';
      let name = bare;
      for (let i = 2; taken.has(name.toLowerCase()); i++) name = `${basename(bare, extname(bare))} (${i})${extname(bare)}`;
      taken.add(name.toLowerCase());
      await pipeline(await open.source(sha256), createWriteStream(join(folder, name), { flags: 'wx' }));
      sources.push(name);
    }
    const names = [
      ...resultNames(
        sessions.map(({ name }, i) => `${safeName(name) || i}.x`),
        'session.json',
      ).values(),
    ];
    for (const [i, name] of names.entries())
      await writeFile(join(folder, name), `${JSON.stringify(sessions[i]!.document, null, 1)}\n`, { flag: 'wx' });
    for (const [i, profile] of profiles.entries())
      await writeFile(join(folder, `profile-${i + 1}.json`), `${JSON.stringify(profile.file)}\n`, { flag: 'wx' });
    return { sources, sessions: names };
  } catch (error) {
    throw asMediaError(error);
  } finally {
    open.close();
  }
}
