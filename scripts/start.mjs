// npm start: installs what is missing, builds what changed, starts the database and the server, prints the
// address. Ctrl-C ends all that was started.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureNodeModules, ensurePackages, root, say, stateFolder } from './lib/system.mjs';
import { startPostgres } from './lib/postgres.mjs';

const port = Number(process.env.EUPHONOS_PORT ?? 4680);
const lock = join(stateFolder, 'start.pid');

const isAlive = (pid) => {
  try {
    return process.kill(pid, 0);
  } catch {
    return false;
  }
};
if (existsSync(lock) && isAlive(Number(readFileSync(lock, 'utf8')))) {
  say(`Euphonos is already running here (process ${readFileSync(lock, 'utf8')}). End that one first.`);
  process.exit(1);
}

/** A server of PostgreSQL that somebody else looks after: then none is started here. */
const given = process.env.EUPHONOS_DATABASE_URL;
ensurePackages(given ? ['ffmpeg'] : ['ffmpeg', 'postgresql']);
ensureNodeModules();
ensureBuild();
mkdirSync(stateFolder, { recursive: true });
writeFileSync(lock, String(process.pid));

if (!given) say('Starting the database …');
let database = given
  ? { url: given, port: 0, ended: new Promise(() => undefined), stop: async () => undefined }
  : await startPostgres(join(stateFolder, 'postgres'));
let server;
let stopping = false;
const stop = async (exitCode) => {
  if (stopping) return;
  stopping = true;
  if (server && server.exitCode === null) {
    server.kill('SIGTERM');
    await Promise.race([new Promise((resolve) => server.once('exit', resolve)), new Promise((resolve) => setTimeout(resolve, 8000))]);
    server.kill('SIGKILL');
  }
  await database.stop();
  rmSync(lock, { force: true });
  process.exit(exitCode);
};
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));

/** A database that ends by itself is started again where it was; the server finds it there. */
const keepDatabase = async () => {
  await database.ended;
  if (stopping) return;
  say('The database ended; starting it again. What was saved is safe.');
  try {
    database = await startPostgres(join(stateFolder, 'postgres'), { port: database.port });
    void keepDatabase();
  } catch (error) {
    console.error(error.message);
    void stop(1);
  }
};
void keepDatabase();

const startServer = () => {
  server = spawn(process.execPath, [join(root, 'apps/server/dist-bundle/main.js')], {
    env: { ...process.env, EUPHONOS_PORT: String(port), EUPHONOS_DATABASE_URL: database.url, NODE_ENV: 'production' },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true,
  });
  let wasReady = false;
  server.on('message', () => {
    wasReady = true;
    say('Ctrl-C ends it.');
  });
  server.on('exit', (code, signal) => {
    if (stopping) return;
    if (!wasReady) return void stop(code ?? 1);
    say(`The server ended (${signal ?? code}); starting it again. Saved work is safe.`);
    startServer();
  });
};
startServer();
