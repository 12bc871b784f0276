// What the machine must have beside Node.js, and how it gets there. Plain JavaScript: it runs before anything is
// installed.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('../../', import.meta.url));
export const stateFolder = join(root, '.euphonos');
export const say = (text) => console.log(text);
export const isRoot = process.getuid?.() === 0;

const onPath = (name) => (process.env.PATH ?? '').split(':').some((folder) => existsSync(join(folder, name)));

/** Folder with initdb and postgres, the newest version; undefined when there is none. */
export function postgresBin() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
  const found = versions.map((version) => join(base, version, 'bin')).find((bin) => existsSync(join(bin, 'initdb')));
  if (found) return found;
  return (process.env.PATH ?? '').split(':').find((folder) => existsSync(join(folder, 'initdb')) && existsSync(join(folder, 'postgres')));
}

const needs = {
  ffmpeg: { why: 'decodes and encodes sound files', present: () => onPath('ffmpeg') && onPath('ffprobe') },
  postgresql: { why: 'the database for sessions', present: () => postgresBin() !== undefined },
  chromium: { why: 'the browser that the end-to-end tests drive', present: () => onPath('chromium') },
};

/** Installs what is missing of the named Debian packages, or says what to install. */
export function ensurePackages(names) {
  const missing = names.filter((name) => !needs[name].present());
  if (missing.length === 0) return;
  for (const name of missing) say(`Missing: ${name} (${needs[name].why}).`);
  if (!isRoot || !onPath('apt-get')) {
    console.error(`Install them and start again, for example: sudo apt-get install ${missing.join(' ')}`);
    process.exit(1);
  }
  say(`Installing ${missing.join(', ')} with apt-get …`);
  if (missing.includes('postgresql')) {
    // The package would start a cluster of its own otherwise; ours lives in the project.
    mkdirSync('/etc/postgresql-common', { recursive: true });
    if (!existsSync('/etc/postgresql-common/createcluster.conf'))
      writeFileSync('/etc/postgresql-common/createcluster.conf', 'create_main_cluster = false\n');
  }
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const apt = (args) =>
    spawnSync('apt-get', ['-o', 'DPkg::Lock::Timeout=300', '-qq', ...args], { env, stdio: ['ignore', 'ignore', 'inherit'] }).status;
  if (apt(['update']) !== 0 || apt(['install', '-y', '--no-install-recommends', ...missing]) !== 0) {
    console.error(`apt-get could not install ${missing.join(', ')}; see its message above.`);
    process.exit(1);
  }
}

/** npm packages from the lock file, when they are not those of the lock file yet. */
export function ensureNodeModules() {
  const stamp = join(root, 'node_modules/.euphonos-lock');
  const wanted = hash(readFileSync(join(root, 'package-lock.json')));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  say('Installing npm packages from the lock file …');
  execFileSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] });
  writeFileSync(stamp, wanted);
}

/** Builds when a source file is newer or other than at the last build. */
export function ensureBuild() {
  const stamp = join(stateFolder, 'build-stamp');
  const wanted = hash(
    ['packages', 'apps'].flatMap((folder) => sourceFacts(join(root, folder))).join('\n') +
      ['package-lock.json', 'scripts/build.mjs', 'scripts/bundle.mjs'].map((file) => readFileSync(join(root, file), 'utf8')).join('\n'),
  );
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  say('Building …');
  execFileSync(process.execPath, [join(root, 'scripts/build.mjs')], { cwd: root, stdio: 'inherit' });
  mkdirSync(stateFolder, { recursive: true });
  writeFileSync(stamp, wanted);
}

const hash = (data) => createHash('sha256').update(data).digest('hex');

function sourceFacts(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.name === 'node_modules' || entry.name.startsWith('dist') || /\.(wasm|tsbuildinfo)$/.test(entry.name)) return [];
    if (entry.isDirectory()) return sourceFacts(path);
    const { size, mtimeMs } = statSync(path);
    return [`${path} ${size} ${Math.round(mtimeMs)}`];
  });
}
