// npm run worker: takes work from the server's queue, on this machine or on any other that reaches its database (EUPHONOS_DATABASE_URL) and
// its store (EUPHONOS_MEDIA, a folder; or EUPHONOS_STORE, a bucket). Beside a server that was started here it finds both by itself.
import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { reachPostgres } from './lib/postgres.mjs';
import { ensureBuild, ensureNodeModules, ensurePackages, root, stateFolder } from './lib/system.mjs';

const media = process.env.EUPHONOS_MEDIA ?? join(stateFolder, 'media');
if (!process.env.EUPHONOS_DATABASE_URL && !existsSync(join(stateFolder, 'start.pid'))) {
  console.error(
    'No server runs here. Start one first (npm start), or say where its database and its store are: EUPHONOS_DATABASE_URL=postgres://… EUPHONOS_MEDIA=/mnt/… npm run worker',
  );
  process.exit(2);
}
if (!process.env.EUPHONOS_STORE && !existsSync(media)) {
  console.error(`The store of the server must be reached as a folder: there is none at ${media}. Set EUPHONOS_MEDIA.`);
  process.exit(2);
}
ensurePackages(['ffmpeg']);
ensureNodeModules();
ensureBuild();
const databaseUrl = process.env.EUPHONOS_DATABASE_URL ?? (await reachPostgres(join(stateFolder, 'postgres'))).url;
const worker = spawn(process.execPath, [join(root, 'apps/server/dist-bundle/work.js')], {
  env: { ...process.env, EUPHONOS_DATABASE_URL: databaseUrl, EUPHONOS_MEDIA: media, NODE_ENV: 'production' },
  stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
});
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => worker.kill(signal));
worker.on('exit', (code, signal) => process.exit(signal ? 0 : (code ?? 0)));
