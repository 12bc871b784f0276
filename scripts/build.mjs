// Builds everything: kernels (AssemblyScript), packages and applications (TypeScript), programs out of them (Rolldown), the page (Vite), bed and
// picture of the demo.
// --only-core leaves the page out.
import { spawn } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundle } from './bundle.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
/** Ends everything where it does not end well. */
const program = async (what, file, args, stdio = 'inherit') => {
  console.log(`  ${what}`);
  const status = await new Promise((resolve) => spawn(process.execPath, [file, ...args], { cwd: root, stdio }).once('exit', resolve));
  if (status !== 0) process.exit(status ?? 1);
};
const run = (what, command, args) => program(what, `${root}node_modules/${command}`, args);

await run('kernels', 'assemblyscript/bin/asc.js', [
  'packages/dsp/kernels/index.ts',
  '-o',
  'packages/dsp/kernels/kernels.wasm',
  '--runtime',
  'stub',
  '--enable',
  'simd',
  '--enable',
  'bulk-memory',
  '-O3',
  '--noAssert',
  '--use',
  'abort=',
]);
// The weights of the gain network travel in the same file, as a custom section: whoever has the kernels has them too.
appendSection(
  join(root, 'packages/dsp/kernels/kernels.wasm'),
  'gain-network',
  readFileSync(join(root, 'packages/dsp/kernels/gain-network.bin')),
);
const onlyCore = process.argv.includes('--only-core');
// Bed and picture of the demo need no voice: they are made here, not kept; both are ffmpeg's work, beside the compiler.
const demo = [
  ['bed', 'bed.flac'],
  ['picture', 'guide.mov'],
].filter(([, file]) => !onlyCore && !existsSync(join(root, 'demo', file)));
await Promise.all([
  run('TypeScript', 'typescript/bin/tsc', ['-b', ...(onlyCore ? ['apps/cli'] : [])]),
  (async () => {
    for (const [part] of demo)
      await program(`the ${part} of the demo`, join(root, 'demo/make-demo.mjs'), [part], ['ignore', 'ignore', 'inherit']);
  })(),
]);
console.log('  programs');
for (const app of onlyCore ? ['cli'] : ['cli', 'server']) await bundle(app);
if (!onlyCore) await run('the page', 'vite/bin/vite.js', ['build', '--config', 'apps/web/vite.config.ts', '--logLevel', 'warn']);

/** Appends a custom section (WebAssembly core specification 1.0, 5.5.3) to a compiled module. */
function appendSection(file, name, content) {
  const named = Buffer.from(name);
  const body = Buffer.concat([leb128(named.length), named, content]);
  writeFileSync(file, Buffer.concat([readFileSync(file), Buffer.from([0]), leb128(body.length), body]));
}

/** An unsigned number in seven bits a byte. */
function leb128(value) {
  const bytes = [];
  for (let rest = value; ; rest >>>= 7) {
    bytes.push(rest > 127 ? (rest & 127) | 128 : rest);
    if (rest <= 127) return Buffer.from(bytes);
  }
}
