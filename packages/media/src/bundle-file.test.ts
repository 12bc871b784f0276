import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createWriteStream, readFileSync, writeFileSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { BUNDLE_FORMAT, createDocument, type Bundle } from '@euphonos/engine';
import { ZipFile } from 'yazl';
import { openBundle, writeBundle } from './bundle-file.js';
import { scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);

const bytes = Buffer.from(Array.from({ length: 50_000 }, (_, n) => (n * 7919) % 251));
const sha256 = createHash('sha256').update(bytes).digest('hex');
writeFileSync(files.path('source'), bytes);
const document = createDocument({ id: 'r1', name: 'anna', lengthFrames: 48_000, sampleRateHz: 48_000, channels: 1 });
const bundle: Bundle = {
  format: BUNDLE_FORMAT,
  version: 1,
  production: null,
  sessions: [{ name: 'Anna', document, recordingIds: ['r1'] }],
  recordings: [{ id: 'r1', fileName: 'anna.wav', sizeBytes: bytes.length, sha256, rateHz: 48_000, driftPpm: 0 }],
  profiles: [],
};

async function written(name: string, given: object = bundle, source = files.path('source')): Promise<string> {
  await pipeline(
    writeBundle(given as Bundle, () => source),
    createWriteStream(files.path(name)),
  );
  return files.path(name);
}
/** A zip with just these files. */
async function zipOf(name: string, entries: Readonly<Record<string, Buffer | string>>, compress = true): Promise<string> {
  const zip = new ZipFile();
  for (const [entry, content] of Object.entries(entries)) zip.addBuffer(Buffer.from(content), entry, { compress });
  zip.end();
  await pipeline(zip.outputStream, createWriteStream(files.path(name)));
  return files.path(name);
}
/** The same file with some bytes exchanged for as many others, wherever they stand. */
function exchanged(path: string, from: string, to: string): string {
  const text = readFileSync(path, 'latin1').replaceAll(from, to);
  writeFileSync(`${path}.x`, Buffer.from(text, 'latin1'));
  return `${path}.x`;
}
const problem = (path: string): Promise<string> =>
  openBundle(path).then(
    (open) => (open.close(), 'opened'),
    (error: Error & { code: string }) => `${error.code}: ${error.message}`,
  );

test('what is written is read, to the byte; the same bundle makes the same bytes', async () => {
  const path = await written('good.zip');
  const open = await openBundle(path);
  expect(open.bundle).toEqual(bundle);
  const parts: Buffer[] = [];
  for await (const part of await open.source(sha256)) parts.push(part as Buffer);
  open.close();
  expect(Buffer.concat(parts).equals(bytes)).toBe(true);
  expect(readFileSync(await written('again.zip')).equals(readFileSync(path))).toBe(true);
});

// Where there is a Python, its own library reads it, too.
const python = spawnSync('python3', ['--version']).error === undefined;
(python ? test : test.skip)('Python’s zipfile finds it sound', async () => {
  const code = 'import zipfile,sys; z=zipfile.ZipFile(sys.argv[1]); print(z.testzip(), *sorted(z.namelist()))';
  const listed = execFileSync('python3', ['-c', code, await written('python.zip')], { encoding: 'utf8' });
  expect(listed.trim()).toBe(`None bundle.json sources/${sha256}`);
});

test('bytes that are others than is told are refused at their end', async () => {
  writeFileSync(files.path('other'), Buffer.from(bytes).fill(1, 100, 120));
  const open = await openBundle(await written('changed.zip', bundle, files.path('other')));
  const read = async (): Promise<void> => {
    for await (const part of await open.source(sha256)) void part;
  };
  await expect(read()).rejects.toMatchObject({ code: 'bundle-file', message: expect.stringContaining('damaged or changed') });
  open.close();
});

test.each([
  ['no zip', async () => (writeFileSync(files.path('a.zip'), 'hello'), files.path('a.zip')), /bundle-file: This is no zip/],
  [
    'cut off',
    async () => (writeFileSync(files.path('cut.zip'), readFileSync(await written('c.zip')).subarray(0, 30_000)), files.path('cut.zip')),
    /bundle-file: This is no zip/,
  ],
  ['no bundle.json', () => zipOf('b.zip', { [`sources/${sha256}`]: bytes }), /no bundle\.json/],
  ['no JSON', () => zipOf('j.zip', { 'bundle.json': '{' }), /is no JSON/],
  ['something else', () => zipOf('s.zip', { 'bundle.json': '{"format":"zip"}' }), /no bundle of Euphonos/],
  ['a newer version', () => written('n.zip', { ...bundle, version: 2 }), /bundle-version: The bundle has version 2/],
  [
    'a newer document',
    () => written('d.zip', { ...bundle, sessions: [{ ...bundle.sessions[0]!, document: { ...document, schemaVersion: 999 } }] }),
    /document-version/,
  ],
  [
    'a recording that is not there',
    () => written('m.zip', { ...bundle, sessions: [{ ...bundle.sessions[0]!, recordingIds: ['r2'] }] }),
    /asks for a recording that is not in/,
  ],
  ['a source that is not there', () => zipOf('o.zip', { 'bundle.json': JSON.stringify(bundle) }), /bytes of "anna\.wav" are not in/],
  [
    'another size',
    () => written('z.zip', { ...bundle, recordings: [{ ...bundle.recordings[0]!, sizeBytes: 7 }] }),
    /has 50000 bytes in the bundle; 7 are told/,
  ],
  ['a strange file', () => zipOf('f.zip', { 'bundle.json': JSON.stringify(bundle), 'run.sh': 'rm' }), /holds no file "run\.sh"/],
  ['a path out of its folder', async () => exchanged(await written('p.zip'), 'sources/', '../../a/'), /bundle-file/],
  ['an absolute path', async () => exchanged(await written('q.zip'), 'sources/', '/etc/ab/'), /bundle-file/],
  [
    'a bomb',
    () => zipOf('bomb.zip', { 'bundle.json': JSON.stringify(bundle), [`sources/${sha256}`]: Buffer.alloc(40 << 20) }),
    /would unpack to 41943040 bytes/,
  ],
])('%s is refused in words before anything is unpacked', async (_, make, words) => {
  expect(await problem(await make())).toMatch(words);
});
