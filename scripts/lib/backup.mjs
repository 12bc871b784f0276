// A backup: what the database holds, and every file that it may refer to, in a folder that the next backup brings up to date. Whatever moment it is
// broken off at, the one before is whole. FOLDER/database.dump (pg_dump, custom format), FOLDER/media/ab/cdef… (bytes by their SHA-256),
// FOLDER/takes (what is being recorded), FOLDER/backup.json (what it is; written last).
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync } from 'node:fs';
import { cp, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import { postgresBin } from './system.mjs';

/** While it is held the server frees no space (media-store/store-keeper.ts). */
export const STORE_LOCK = 734_001;
const FORMAT = 'euphonos-backup';

/** A wish that cannot be met, in words. */
export class BackupError extends Error {}

const program = (name) => {
  const bin = postgresBin();
  return bin && existsSync(join(bin, name)) ? join(bin, name) : name;
};

/** Who asks and where, as PostgreSQL's programs read it from their environment: arguments are seen by everybody on the machine. */
function addressed(databaseUrl) {
  const { hostname, port, username, password, pathname } = new URL(databaseUrl);
  const [user, secret, database] = [username, password, pathname.slice(1)].map(decodeURIComponent);
  return { ...process.env, PGHOST: hostname, PGPORT: port || '5432', PGUSER: user, PGPASSWORD: secret, PGDATABASE: database };
}

function run(name, args, databaseUrl) {
  return new Promise((resolve, reject) => {
    const child = spawn(program(name), args, { stdio: ['ignore', 'ignore', 'pipe'], env: addressed(databaseUrl) });
    let said = '';
    child.stderr.setEncoding('utf8').on('data', (text) => (said = (said + text).slice(-2000)));
    child.on('error', (error) =>
      reject(error.code === 'ENOENT' ? new BackupError(`${name} is not installed; it comes with the Debian package postgresql.`) : error),
    );
    child.on('close', (code) => (code === 0 ? resolve() : reject(new BackupError(`${name} failed: ${said.trim().split('\n').at(-1)}`))));
  });
}

/** Whatever lies in the folders of a store, as ab/name; none where there is no store. */
async function* allOf(media) {
  for (const folder of await readdir(media).catch(() => []))
    if (/^[0-9a-f]{2}$/.test(folder)) for (const name of await readdir(join(media, folder))) yield join(folder, name);
}

/** Every file of a store as ab/cdef…, without what a killed backup left half copied; with its size where it is known. */
async function* filesOf(media, store) {
  if (store) for await (const { sha, sizeBytes } of store.list()) yield { file: `${sha.slice(0, 2)}/${sha.slice(2)}`, size: sizeBytes };
  else
    for await (const file of allOf(media))
      if (/^[0-9a-f]{2}\/[0-9a-f]{62}$/.test(file)) yield { file, size: await sizeOf(join(media, file)) };
}

/** Copies a file of a store; what arrives must be what its name says. @returns its size, or null where it is gone or damaged */
async function copyChecked(from, to, file) {
  const sha = file.replace('/', '');
  const hash = createHash('sha256');
  const part = join(to, `${file}.part`);
  await mkdir(join(to, file.slice(0, 2)), { recursive: true });
  let size = 0;
  try {
    await pipeline(
      createReadStream(join(from, file)),
      async function* (bytes) {
        for await (const chunk of bytes) {
          hash.update(chunk);
          size += chunk.length;
          yield chunk;
        }
      },
      createWriteStream(part, { flush: true }),
    );
    if (hash.digest('hex') !== sha) return null;
    await rename(part, join(to, file));
    return size;
  } catch (error) {
    if (error.code === 'ENOENT') return null;
    if (error.code === 'ENOSPC' || error.code === 'EDQUOT')
      throw new BackupError('The disk of the backup is full. The backup before this one is whole; free some space and start again.');
    throw error;
  } finally {
    await rm(part, { force: true });
  }
}

/** What is being recorded, as far as it is; nothing where nothing is. */
async function copyTakes(from, to) {
  await rm(to, { recursive: true, force: true });
  await mkdir(to, { recursive: true });
  if (from && existsSync(from)) await cp(from, to, { recursive: true });
}

const sizeOf = (path) =>
  stat(path).then(
    ({ size }) => size,
    () => -1,
  );

/**
 * Makes a backup, or brings the one in a folder up to date, while work goes on.
 * @param store an object store whose files are at hand in `media`; left out, `media` is the store
 * @returns what was done: { files, copied, sizeBytes, damaged }; `damaged` names files whose bytes are no longer those that were stored
 */
export async function makeBackup({ databaseUrl, media, store, takes, note, folder }) {
  if (
    existsSync(folder) &&
    (await readdir(folder)).length > 0 &&
    !existsSync(join(folder, 'backup.json')) &&
    !existsSync(join(folder, 'media'))
  )
    throw new BackupError(`"${folder}" holds something else. Name a folder that is empty, new, or a backup.`);
  await mkdir(join(folder, 'media'), { recursive: true });
  const client = new pg.Client({ connectionString: databaseUrl });
  client.on('error', () => undefined);
  await client.connect();
  const told = { files: 0, copied: 0, sizeBytes: 0, damaged: [] };
  try {
    // Until the end: whatever the dump refers to stays where it is.
    await client.query('SELECT pg_advisory_lock($1)', [STORE_LOCK]);
    const { rows } = await client.query('SHOW server_version');
    const dump = join(folder, 'database.dump');
    await run('pg_dump', ['--format=custom', '--no-owner', `--file=${dump}.part`], databaseUrl);
    const held = new Set();
    for await (const { file, size } of filesOf(media, store)) {
      held.add(file);
      if (size >= 0 && (await sizeOf(join(folder, 'media', file))) === size) told.sizeBytes += size;
      else {
        const isThere = await store?.path(file.replace('/', '')).catch((error) => {
          if (error.code !== 'file-missing') throw error;
        });
        const copied = store && !isThere ? null : await copyChecked(media, join(folder, 'media'), file);
        if (copied === null) {
          told.damaged.push(file.replace('/', ''));
          continue;
        }
        told.copied++;
        told.sizeBytes += copied;
      }
      told.files++;
    }
    await copyTakes(takes, join(folder, 'takes.part'));
    // A line that was cut has let go of the lock: then something may have been tidied away before it was copied.
    await client.query('SELECT 1').catch(() => {
      throw new BackupError('The database went away in the middle. The backup before this one is whole; start again when it is back.');
    });
    await rm(join(folder, 'takes'), { recursive: true, force: true });
    await rename(join(folder, 'takes.part'), join(folder, 'takes'));
    await rename(`${dump}.part`, dump);
    told.sizeBytes += await sizeOf(dump);
    const madeAt = new Date().toISOString();
    const { files, sizeBytes, damaged } = told;
    const facts = { format: FORMAT, version: 1, madeAt, postgres: rows[0].server_version, files, sizeBytes, damaged };
    await writeFile(join(folder, 'backup.json'), `${JSON.stringify(facts, null, 2)}\n`);
    // Only now nothing needs what the backup before this one had more.
    for await (const file of allOf(join(folder, 'media'))) if (!held.has(file)) await rm(join(folder, 'media', file));
    if (note) await writeFile(note, JSON.stringify({ madeAt, folder, sizeBytes }));
    return told;
  } finally {
    await client.end().catch(() => undefined);
  }
}

/**
 * Puts a backup where nothing is yet. Every file is checked against its name; broken off, it is done
 * again, for the database comes last.
 * @returns { files, sizeBytes, damaged }
 */
export async function restoreBackup({ databaseUrl, media, store, takes, folder }) {
  const facts = await readFile(join(folder, 'backup.json'), 'utf8').then(JSON.parse, () => null);
  if (facts?.format !== FORMAT) throw new BackupError(`"${folder}" is no backup of Euphonos: there is no backup.json in it that says so.`);
  if (facts.version !== 1) throw new BackupError(`The backup has version ${facts.version}; this Euphonos knows 1. Use a newer one.`);
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    const { rows } = await client.query(`SELECT to_regclass('session') IS NOT NULL AS used`);
    if (rows[0].used)
      throw new BackupError(
        'There are sessions here already. Restore into a fresh installation, before its first start; nothing was touched.',
      );
  } finally {
    await client.end();
  }
  await mkdir(media, { recursive: true });
  const told = { files: 0, sizeBytes: 0, damaged: [] };
  for await (const { file } of filesOf(join(folder, 'media'))) {
    const size = await copyChecked(join(folder, 'media'), media, file);
    if (size === null) told.damaged.push(file.replace('/', ''));
    else {
      // At hand already; now it goes where it is kept.
      await store?.link(join(media, file));
      told.files++;
      told.sizeBytes += size;
    }
  }
  if (takes && existsSync(join(folder, 'takes'))) await cp(join(folder, 'takes'), takes, { recursive: true });
  const { pathname } = new URL(databaseUrl);
  const how = ['--no-owner', '--exit-on-error', '--single-transaction', `--dbname=${decodeURIComponent(pathname.slice(1))}`];
  await run('pg_restore', [...how, join(folder, 'database.dump')], databaseUrl);
  return told;
}
