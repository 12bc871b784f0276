// Builds everything: kernels (AssemblyScript), packages and applications (TypeScript), the page (Vite).
// --only-core leaves the page out.
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const run = (what, command, args) => {
  console.log(`  ${what}`);
  const { status } = spawnSync(process.execPath, [`${root}node_modules/${command}`, ...args], { cwd: root, stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
};

run('kernels', 'assemblyscript/bin/asc.js', [
  'packages/dsp/kernels/index.ts', '-o', 'packages/dsp/kernels/kernels.wasm',
  '--runtime', 'stub', '--enable', 'simd', '--enable', 'bulk-memory', '-O3', '--noAssert', '--use', 'abort=',
]);
const onlyCore = process.argv.includes('--only-core');
run('TypeScript', 'typescript/bin/tsc', ['-b', ...(onlyCore ? ['apps/cli'] : [])]);
if (!onlyCore) run('the page', 'vite/bin/vite.js', ['build', '--config', 'apps/web/vite.config.ts', '--logLevel', 'warn']);
