import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { PassThrough, Transform, type Readable } from 'node:stream';
import { EngineError, parseBundle, readForeignJson, sourcesOf, type Bundle } from '@euphonos/engine';
import { open as openZip, type Entry, type ZipFile } from 'yauzl';
import { ZipFile as ZipWriter } from 'yazl';
import { MediaError } from './errors.js';

const MANIFEST = 'bundle.json';
const sourceName = (sha256: string): string => `sources/${sha256}`;
/** The same bundle at any time makes the same bytes. */
const THE_DAY = new Date(Date.UTC(2000, 0, 1));
const MOST_MANIFEST_BYTES = 256 << 20;
const MOST_ENTRIES = 20_002;
/** A text can shrink to a hundredth; what shrinks further was made to fill memory. */
const MOST_RATIO = 400;

const refuse = (message: string): never => {
  throw new MediaError('bundle-file', `${message} Nothing was taken over.`);
};

/**
 * A bundle as a stream of a zip (PKWARE's APPNOTE 6.3; Zip64 where it is large): `bundle.json`, and every source once as `sources/<SHA-256>`,
 * stored as it is.
 * @param pathOf the file with the bytes of a source
 */
export function writeBundle(bundle: Bundle, pathOf: (sha256: string) => string): Readable {
  const zip = new ZipWriter();
  const out = new PassThrough();
  zip.on('error', (error) => out.destroy(error as Error));
  zip.addBuffer(Buffer.from(`${JSON.stringify(bundle, null, 1)}\n`), MANIFEST, { mtime: THE_DAY, mode: 0o100644 });
  for (const { sha256 } of sourcesOf(bundle))
    zip.addFile(pathOf(sha256), sourceName(sha256), { mtime: THE_DAY, mode: 0o100644, compress: false });
  zip.end();
  (zip.outputStream as Readable).on('error', (error) => out.destroy(error)).pipe(out);
  return out;
}

/** A bundle that can be read from: what it says, and the bytes of its sources, each checked to its end. */
export interface OpenBundle {
  readonly bundle: Bundle;
  /** @throws {MediaError} `bundle-file` at the end of a stream whose bytes are others than it says */
  source(sha256: string): Promise<Readable>;
  close(): void;
}

/**
 * Opens a bundle, and checks all that can be checked before anything is unpacked: names, sizes, the version, that every source is there.
 * @throws {MediaError} `bundle-file`; {EngineError} and {DspError} as `parseBundle`
 */
export async function openBundle(path: string): Promise<OpenBundle> {
  const zip = await opened(path);
  try {
    const entries = await entriesOf(zip, (await stat(path)).size);
    const manifest = entries.get(MANIFEST) ?? refuse('There is no bundle.json in it: this is no bundle of Euphonos.');
    if (manifest.uncompressedSize > MOST_MANIFEST_BYTES) refuse(`Its bundle.json is larger than ${MOST_MANIFEST_BYTES >> 20} MB.`);
    const bundle = parseBundle(await jsonOf(await streamOf(zip, manifest)));
    for (const { sha256, sizeBytes, name } of sourcesOf(bundle)) {
      const entry = entries.get(sourceName(sha256)) ?? refuse(`The bytes of "${name}" are not in the bundle.`);
      if (entry.uncompressedSize !== sizeBytes)
        refuse(`"${name}" has ${entry.uncompressedSize} bytes in the bundle; ${sizeBytes} are told of it.`);
    }
    return {
      bundle,
      source: async (sha256) => {
        const entry = entries.get(sourceName(sha256)) ?? refuse('That source is not in the bundle.');
        // What is wrong with its packing ends it too, in words.
        const packed = await streamOf(zip, entry);
        const out = checked(sha256);
        packed.on('error', (error) => out.destroy(damaged(error))).pipe(out);
        return out.on('close', () => packed.destroy());
      },
      close: () => zip.close(),
    };
  } catch (error) {
    zip.close();
    throw error;
  }
}

const opened = (path: string): Promise<ZipFile> =>
  new Promise((resolve, reject) =>
    openZip(path, { lazyEntries: true, autoClose: false, strictFileNames: true, validateEntrySizes: true }, (error, zip) =>
      error || !zip
        ? reject(
            new MediaError(
              'bundle-file',
              `This is no zip that can be read (${error?.message ?? 'nothing in it'}). Nothing was taken over.`,
            ),
          )
        : resolve(zip),
    ),
  );

/** Every entry by its name, from the directory at the end of the file. Nothing but what a bundle holds is accepted. */
function entriesOf(zip: ZipFile, fileBytes: number): Promise<ReadonlyMap<string, Entry>> {
  return new Promise((resolve, reject) => {
    const entries = new Map<string, Entry>();
    const give = (message: string): void => reject(new MediaError('bundle-file', `${message} Nothing was taken over.`));
    if (zip.entryCount > MOST_ENTRIES) return give(`It has ${zip.entryCount} files; a bundle has up to ${MOST_ENTRIES}.`);
    zip.on('error', (error: Error) => give(`It cannot be read as a zip: ${error.message}.`));
    zip.on('end', () => resolve(entries));
    zip.on('entry', (entry: Entry) => {
      const { fileName, uncompressedSize, compressedSize } = entry;
      if (fileName !== MANIFEST && !/^sources\/[0-9a-f]{64}$/.test(fileName))
        return give(`A bundle holds no file "${fileName.slice(0, 80)}".`);
      if (entries.has(fileName)) return give(`"${fileName}" is in it twice.`);
      if (compressedSize > fileBytes || uncompressedSize > Math.max(1 << 20, compressedSize * MOST_RATIO))
        return give(
          `"${fileName.slice(0, 80)}" would unpack to ${uncompressedSize} bytes from ${compressedSize}, which no recording does.`,
        );
      entries.set(fileName, entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
}

const streamOf = (zip: ZipFile, entry: Entry): Promise<Readable> =>
  new Promise((resolve, reject) =>
    zip.openReadStream(entry, (error, stream) =>
      error || !stream
        ? reject(
            new MediaError('bundle-file', `"${entry.fileName}" cannot be unpacked: ${error?.message ?? 'empty'}. Nothing was taken over.`),
          )
        : resolve(stream),
    ),
  );

async function jsonOf(stream: Readable): Promise<unknown> {
  const parts: Buffer[] = [];
  try {
    for await (const part of stream) parts.push(part as Buffer);
    return readForeignJson(Buffer.concat(parts), { mostBytes: MOST_MANIFEST_BYTES });
  } catch (error) {
    if (error instanceof EngineError) return refuse(`Its bundle.json cannot be read. ${error.message}`);
    throw damaged(error as Error);
  }
}

const damaged = (error: Error): MediaError =>
  new MediaError('bundle-file', `The zip is damaged: ${error.message}. Copy it again. Nothing was taken over.`);

/** Lets bytes through and refuses their end where they are not those of that hash. */
function checked(sha256: string): Transform {
  const hash = createHash('sha256');
  return new Transform({
    transform: (bytes: Buffer, _, done) => {
      hash.update(bytes);
      done(null, bytes);
    },
    flush: (done) =>
      hash.digest('hex') === sha256
        ? done()
        : done(
            new MediaError(
              'bundle-file',
              'The bytes of a recording are not those that the bundle tells of: it was damaged or changed. Nothing was taken over.',
            ),
          ),
  });
}
