// npm run backup FOLDER: a backup of everything, made while work goes on; the same folder again brings it up to date.
// npm run restore FOLDER: puts one where nothing is yet.
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { reachPostgres } from './lib/postgres.mjs';
import { ensureBuild, ensureNodeModules, ensurePackages, root, say, stateFolder } from './lib/system.mjs';

const [what, named] = process.argv.slice(2);
if (!['backup', 'restore'].includes(what) || !named) {
  console.error('npm run backup FOLDER, or npm run restore FOLDER');
  process.exit(2);
}
const folder = resolve(process.env.INIT_CWD ?? process.cwd(), named);
const media = process.env.EUPHONOS_MEDIA ?? join(stateFolder, 'media');
const takes = process.env.EUPHONOS_TAKES ?? join(media, '../takes');
const note = process.env.EUPHONOS_BACKUP_NOTE ?? join(media, '../last-backup.json');
const gigabytes = (bytes) => `${(bytes / 1e9).toFixed(bytes < 1e10 ? 2 : 0)} GB`;
const damagedWords = (shas) =>
  `${shas.length} files are damaged: their bytes are no longer those that were stored (${shas.slice(0, 3).join(', ')}${shas.length > 3 ? ' …' : ''}). ` +
  'Everything else is whole. Look at the disk, and bring these recordings in again.';

ensurePackages(['postgresql']);
ensureNodeModules();
const { BackupError, makeBackup, restoreBackup } = await import('./lib/backup.mjs');
let database;
try {
  const store = await storeElsewhere();
  if (what === 'backup' && !store && !existsSync(media) && !process.env.EUPHONOS_DATABASE_URL)
    throw new BackupError(`There is nothing to back up: no recordings lie in ${media}.`);
  database = process.env.EUPHONOS_DATABASE_URL
    ? { url: process.env.EUPHONOS_DATABASE_URL, stop: async () => undefined }
    : await reachPostgres(join(stateFolder, 'postgres'));
  const where = { databaseUrl: database.url, media, store, takes, note, folder };
  const { files, copied, sizeBytes, damaged } = await (what === 'backup' ? makeBackup(where) : restoreBackup(where));
  if (what === 'backup') say(`Backed up to ${folder}: ${files} files, ${copied} of them new, ${gigabytes(sizeBytes)}.`);
  else say(`Restored from ${folder}: ${files} files, ${gigabytes(sizeBytes)}. "npm start" goes on from there.`);
  if (damaged.length > 0) {
    console.error(damagedWords(damaged));
    process.exitCode = 3;
  }
} catch (error) {
  console.error(error instanceof BackupError ? error.message : `The ${what} failed: ${error.message}`);
  process.exitCode = 1;
} finally {
  await database?.stop();
}

/** The object store that is named in the environment, if one is. */
async function storeElsewhere() {
  if (!process.env.EUPHONOS_STORE) return undefined;
  ensureBuild();
  const { storeSettings } = await import(join(root, 'apps/server/dist/config.js'));
  const { openStore } = await import(join(root, 'apps/server/dist/media-store/open-store.js'));
  return openStore(storeSettings(media, process.env));
}
