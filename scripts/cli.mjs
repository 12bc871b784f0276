// Runs the command line, building it first when it has not been built yet.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const main = `${root}apps/cli/dist-bundle/main.js`;
if (!existsSync(main)) {
  const build = spawnSync(process.execPath, [`${root}scripts/build.mjs`, '--only-core'], { stdio: ['ignore', 2, 2] });
  if (build.status !== 0) process.exit(build.status ?? 1);
}
process.argv.splice(1, 1, main);
await import(main);
