// Writes THIRD-PARTY.md: every package that the product uses at run time, with version and licence, as its own
// package.json states them. Run after a change of dependencies. With --check nothing is written: it ends with an error where the
// list is not that of what is installed, a licence asks for more than to be named, a version is not pinned, or a package could
// run a program of its own while it is installed.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './lib/system.mjs';

const listed = execFileSync('npm', ['ls', '--omit=dev', '--all', '--parseable'], {
  cwd: root,
  encoding: 'utf8',
  stdio: ['ignore', 'pipe', 'ignore'],
}).split('\n');
/** Packages whose package.json says nothing of it, and what they say elsewhere. */
const SAID_ELSEWHERE = { 'combine-errors': 'MIT' /* its Readme */, 'thirty-two': 'MIT' /* its LICENSE.txt */ };
const rows = new Map();
const licences = new Map();
for (const folder of listed) {
  const file = join(folder, 'package.json');
  if (!folder.includes('node_modules') || !existsSync(file)) continue;
  const { name, version, license, licenses, cpu } = JSON.parse(readFileSync(file, 'utf8'));
  // What is for one kind of machine alone belongs to the package that chooses it.
  if (!name || name.startsWith('@euphonos/') || cpu) continue;
  const licence = license ?? licenses?.map(({ type }) => type).join(', ') ?? SAID_ELSEWHERE[name] ?? 'see its package';
  licences.set(name, licence);
  rows.set(`${name} ${version}`, `| ${name} | ${version} | ${licence} |`);
}
const text = `# Third-party software\n\nUsed at run time, from the npm registry (made by \`node scripts/third-party.mjs\`):\n\n| Package | Version | Licence |\n|---|---|---|\n${[...rows.values()].sort().join('\n')}\n\nFonts: Source Sans 3 and Literata, SIL Open Font License 1.1. From Debian, as programs of their own: ffmpeg (LGPL/GPL),\nPostgreSQL (PostgreSQL License); Chromium (BSD) for the tests only. The demo was made with festival and flite. The speech\nmodel (\`packages/dsp/src/noise/speech-weights.ts\`) was trained on the prompts of Debian's \`asterisk-core-sounds-it-g722\` and\n\`asterisk-core-sounds-ru-g722\` (CC-BY 3.0; see those packages for their talkers); no sound of them is in it. The gain\nnetwork (\`packages/dsp/kernels/gain-network.bin\`) was trained on these, on \`asterisk-core-sounds-en-g722\` and \`-es-g722\` (CC-BY-SA 3.0), on\n\`pocketsphinx-testdata\` (public domain), and on steady sounds of the packages that bench/train/README.md names; no sound of them is in it.\n`;

/** Licences that ask for no more than to be named, and one for fonts. */
const TAKEN = new Set([
  'MIT',
  'ISC',
  '0BSD',
  'BSD-2-Clause',
  'BSD-3-Clause',
  'Apache-2.0',
  'BlueOak-1.0.0',
  'OFL-1.1',
  'CC0-1.0',
  'Python-2.0',
  'Unlicense',
]);
/** Of several that are offered one will do; of several that hold together all must. */
const isTaken = (licence) =>
  licence
    .replace(/[()]/g, '')
    .split(' OR ')
    .some((choice) => choice.split(' AND ').every((one) => TAKEN.has(one.trim())));

function problems() {
  const found = [];
  if (readFileSync(join(root, 'THIRD-PARTY.md'), 'utf8') !== text)
    found.push('THIRD-PARTY.md is not the list of what is installed: run "node scripts/third-party.mjs".');
  for (const [name, licence] of licences)
    if (!isTaken(licence)) found.push(`${name}: the licence "${licence}" is none that was agreed to.`);
  const manifests = ['packages', 'apps']
    .flatMap((folder) => readdirSync(join(root, folder)).map((name) => join(folder, name, 'package.json')))
    .concat('package.json', 'e2e/package.json')
    .filter((file) => existsSync(join(root, file)));
  for (const file of manifests) {
    const { dependencies = {}, devDependencies = {} } = JSON.parse(readFileSync(join(root, file), 'utf8'));
    for (const [name, version] of Object.entries({ ...dependencies, ...devDependencies }))
      if (!name.startsWith('@euphonos/') && !/^\d+\.\d+\.\d+(-[\w.]+)?$/.test(version))
        found.push(`${file}: ${name} ${version} is not pinned.`);
  }
  if (!/^ignore-scripts=true$/m.test(readFileSync(join(root, '.npmrc'), 'utf8')))
    found.push('.npmrc lets packages run programs while they are installed.');
  const { packages } = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8'));
  for (const [folder, { resolved, integrity, link }] of Object.entries(packages))
    if (folder.startsWith('node_modules/') && !link && resolved && !integrity) found.push(`package-lock.json: ${folder} has no checksum.`);
  return found;
}

if (process.argv.includes('--check')) {
  const found = problems();
  for (const line of found) console.error(line);
  process.exit(found.length === 0 ? 0 : 1);
}
writeFileSync(join(root, 'THIRD-PARTY.md'), text);
