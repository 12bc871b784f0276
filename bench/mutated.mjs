// Files that were damaged, read as the product reads them: none may end the process, none may take longer than 30 s, each is read or refused in
// words. EUPHONOS_FILES says how many (10 000). What went wrong stays in .euphonos/bench/mutated, to be looked at.
import { execFileSync, fork } from 'node:child_process';
import { createWriteStream, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createHash } from 'node:crypto';
import { applyEdit, chainToFile, createDocument, marksAsCsv, marksAsVtt, timelineAsOtio } from '@euphonos/engine';
import { writeBundle } from '@euphonos/media';
import { root } from '../scripts/lib/system.mjs';
import { mutated, recording } from './mutators.mjs';
import { folder } from './sounds.mjs';

const PATIENCE_MS = 30_000;
const READERS = 2;
const here = join(folder, 'mutated');

const at = (seconds) => Math.round(seconds * 48_000);
const marks = [
  { id: 'm1', name: 'Scene, "1"', startFrame: at(1), endFrame: at(3), note: 'to be\nshortened' },
  { id: 'm2', name: 'Cough', startFrame: at(5), endFrame: null, note: '' },
];

/** A whole file of each kind. */
async function seeds() {
  const ffmpeg = (name, ...args) => {
    execFileSync('ffmpeg', [
      '-nostdin',
      '-v',
      'error',
      '-y',
      '-t',
      '1.5',
      '-i',
      join(root, 'demo/narrator.flac'),
      ...args,
      join(here, name),
    ]);
    return readFileSync(join(here, name));
  };
  const picture = ['-f', 'lavfi', '-i', 'testsrc=s=64x48:r=5:d=1.5', '-map', '0:a', '-map', '1:v'];
  const document = [
    { type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: at(2), endFrame: at(3) }], close: true },
    { type: 'add-treatment', trackId: 'track-1', kind: 'noise-reduction', treatmentId: 'reduction' },
    { type: 'add-treatment', trackId: 'track-1', kind: 'gate', treatmentId: 'gate-one' },
    ...marks.map((mark) => ({ type: 'add-mark', mark })),
  ].reduce(applyEdit, createDocument([recording]));
  const chain = chainToFile(document.tracks[0].chain, 'Seed');
  const source = ffmpeg('source.flac');
  const sha256 = createHash('sha256').update(source).digest('hex');
  const bundle = {
    format: 'euphonos-bundle',
    version: 1,
    production: null,
    sessions: [{ name: 'Take', document, recordingIds: ['r1'] }],
    recordings: [{ id: 'r1', fileName: 'take.flac', sizeBytes: source.length, sha256, rateHz: 48_000, driftPpm: 0 }],
    profiles: [],
  };
  await pipeline(
    writeBundle(bundle, () => join(here, 'source.flac')),
    createWriteStream(join(here, 'seed.zip')),
  );
  return {
    wav: [
      ffmpeg('seed.wav', '-c:a', 'pcm_s24le', '-write_bext', '1', '-metadata', 'description=take'),
      ffmpeg('seed16.wav', '-c:a', 'pcm_s16le'),
    ],
    flac: [source],
    mp3: [ffmpeg('seed.mp3', '-b:a', '96k', '-metadata', 'title=take')],
    m4a: [ffmpeg('seed.m4a', '-c:a', 'aac')],
    ogg: [ffmpeg('seed.ogg', '-c:a', 'libvorbis'), ffmpeg('seed.opus.ogg', '-c:a', 'libopus')],
    mp4: [ffmpeg('seed.mp4', ...picture, '-c:a', 'aac', '-c:v', 'mpeg4')],
    mkv: [ffmpeg('seed.mkv', ...picture, '-c:a', 'flac', '-c:v', 'mpeg4')],
    zip: [readFileSync(join(here, 'seed.zip'))],
    json: [chain, { document }, { ...document.target, name: 'Seed' }].map((value) => Buffer.from(JSON.stringify(value))),
    otio: [
      Buffer.from(
        JSON.stringify(timelineAsOtio(document, 'Seed', [{ recordingId: 'r1', fileName: 'take.wav', sha256: recording.sha256 }])),
      ),
    ],
    csv: [Buffer.from(marksAsCsv(marks, 48_000))],
    vtt: [Buffer.from(marksAsVtt(marks, 48_000))],
  };
}

/** A process that reads; started anew when it ended or was ended. */
class Reader {
  #child = null;

  async read(path, kind) {
    if (!this.#child) {
      this.#child = fork(join(root, 'bench/mutated-reader.mjs'), {
        execArgv: ['--max-old-space-size=1024'],
        stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
      });
      await new Promise((resolve, reject) => this.#child.once('message', resolve).once('exit', reject));
    }
    const child = this.#child;
    let said = '';
    child.stderr.removeAllListeners('data').on('data', (text) => (said = (said + text).slice(-1500)));
    return new Promise((resolve) => {
      const end = (outcome) => {
        clearTimeout(patience);
        child.removeAllListeners('message').removeAllListeners('exit');
        resolve(outcome);
      };
      const patience = setTimeout(() => {
        this.#child = null;
        end('hang');
        child.kill('SIGKILL');
      }, PATIENCE_MS);
      child.once('message', ({ outcome }) => end(outcome));
      child.once('exit', (code, signal) => {
        this.#child = null;
        end(`crash: ${signal ?? code} ${said}`);
      });
      child.send({ path, kind });
    });
  }

  close() {
    this.#child?.kill();
  }
}

export async function run() {
  const count = Number(process.env.EUPHONOS_FILES ?? 10_000);
  rmSync(here, { recursive: true, force: true });
  mkdirSync(join(here, 'wrong'), { recursive: true });
  const given = await seeds();
  const kinds = Object.keys(given);
  const whole = new Reader();
  for (const [kind, own] of Object.entries(given))
    for (const bytes of own) {
      const path = join(here, `whole.${kind}`);
      writeFileSync(path, bytes);
      const outcome = await whole.read(path, kind);
      if (outcome !== 'read') throw new Error(`Undamaged, the ${kind} is not read either: ${outcome}`);
    }
  whole.close();
  const told = new Map();
  const wrong = [];
  let [next, slowest] = [0, 0];
  const work = async () => {
    const reader = new Reader();
    for (let n = next++; n < count; n = next++) {
      const kind = kinds[n % kinds.length];
      const own = given[kind];
      const path = join(here, `${n}.${kind}`);
      writeFileSync(path, mutated(own[Math.floor(n / kinds.length) % own.length], kind, n + 1));
      const startMs = performance.now();
      const outcome = await reader.read(path, kind);
      slowest = Math.max(slowest, performance.now() - startMs);
      const word = /^(read|refused|unexpected|crash|hang)/.exec(outcome)[0];
      const key = `${kind} ${word}`;
      told.set(key, (told.get(key) ?? 0) + 1);
      if (word === 'read' || word === 'refused') rmSync(path);
      else {
        renameSync(path, join(here, 'wrong', `${n}.${kind}`));
        wrong.push(`${n}.${kind}: ${outcome.slice(0, 600)}`);
      }
    }
    reader.close();
  };
  await Promise.all(Array.from({ length: READERS }, work));
  for (const line of wrong.slice(0, 20)) console.log(`  ${line}`);
  const of = (word) => kinds.reduce((sum, kind) => sum + (told.get(`${kind} ${word}`) ?? 0), 0);
  for (const kind of kinds)
    console.log(`  ${kind.padEnd(5)} ${told.get(`${kind} read`) ?? 0} read, ${told.get(`${kind} refused`) ?? 0} refused`);
  return [
    { what: 'damaged files', value: count },
    { what: 'read, as far as they go', value: of('read') },
    { what: 'refused in words', value: of('refused') },
    { what: 'errors that nobody expected', value: of('unexpected'), limit: 0 },
    { what: 'processes that ended', value: of('crash'), limit: 0 },
    { what: 'longer than 30 s', value: of('hang'), limit: 0 },
    { what: 'the longest of all', value: slowest / 1000, unit: ' s' },
  ];
}
