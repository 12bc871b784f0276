// Puts a program, the project's own packages and what they depend on into few files. Loading thousands of small modules is what a start
// waits for: the server from its modules takes more than twice as long.
import { rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';

const root = fileURLToPath(new URL('..', import.meta.url));

/**
 * These find files beside their own: machine code, a thread's program, WebAssembly, pages. And otplib: of what is old in its base32 Node.js
 * would warn everybody, were it not in node_modules.
 */
const STAYS = /^(@node-rs\/argon2|@shiguredo\/rnnoise-wasm|piscina|swagger-ui-dist|otplib)(\/|$)/;

const PROGRAMS = {
  cli: { main: 'main.js' },
  server: { main: 'main.js', work: 'work.js', worker: 'workers/worker.js' },
};

/** Whether it is installed; drivers of other databases and transports that are not used are not. */
const isThere = (id, from) => {
  try {
    return Boolean(createRequire(from).resolve(id));
  } catch (error) {
    // Some packages name no entry for require.
    return error.code === 'ERR_PACKAGE_PATH_NOT_EXPORTED';
  }
};

/** @param app folder in apps/, compiled. Its programs come to stand in its dist-bundle/ */
export async function bundle(app) {
  const own = join(root, 'apps', app);
  const input = Object.fromEntries(Object.entries(PROGRAMS[app]).map(([name, file]) => [name, join(own, 'dist', file)]));
  const bundled = await rolldown({
    input,
    platform: 'node',
    external: (id, from) => STAYS.test(id) || (from !== undefined && /^[@a-z]/.test(id) && !isThere(id, from)),
    // Packages warn of what is theirs to mend; what cannot be bundled is an error.
    onLog: () => undefined,
  });
  rmSync(join(own, 'dist-bundle'), { recursive: true, force: true });
  // Names of classes are told to people and to the database: migrations are known by them.
  await bundled.write({ dir: join(own, 'dist-bundle'), format: 'esm', keepNames: true, chunkFileNames: '[name]-[hash].js' });
  await bundled.close();
}
