// Writes THIRD-PARTY.md: every package that the product uses at run time, with version and licence, as its own
// package.json states them. Run after a change of dependencies.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './lib/system.mjs';

const listed = execFileSync('npm', ['ls', '--omit=dev', '--all', '--parseable'], {
  cwd: root,
  encoding: 'utf8',
  stdio: ['ignore', 'pipe', 'ignore'],
}).split('\n');
const rows = new Map();
for (const folder of listed) {
  const file = join(folder, 'package.json');
  if (!folder.includes('node_modules') || !existsSync(file)) continue;
  const { name, version, license, licenses } = JSON.parse(readFileSync(file, 'utf8'));
  if (!name || name.startsWith('@euphonos/')) continue;
  rows.set(
    `${name} ${version}`,
    `| ${name} | ${version} | ${license ?? licenses?.map(({ type }) => type).join(', ') ?? 'see its package'} |`,
  );
}
writeFileSync(
  join(root, 'THIRD-PARTY.md'),
  `# Third-party software\n\nUsed at run time, from the npm registry (made by \`node scripts/third-party.mjs\`):\n\n| Package | Version | Licence |\n|---|---|---|\n${[...rows.values()].sort().join('\n')}\n\nFonts: Source Sans 3 and Literata, SIL Open Font License 1.1. From Debian, as programs of their own: ffmpeg (LGPL/GPL),\nPostgreSQL (PostgreSQL License); Chromium (BSD) for the tests only. The demo was made with festival and flite. The speech\nmodel (\`packages/dsp/src/noise/speech-weights.ts\`) was trained on the prompts of Debian's \`asterisk-core-sounds-it-g722\` and\n\`asterisk-core-sounds-ru-g722\` (CC-BY 3.0; see those packages for their talkers); no sound of them is in it. The gain\nnetwork (\`packages/dsp/kernels/gain-network.bin\`) was trained on these, on \`asterisk-core-sounds-en-g722\` and \`-es-g722\` (CC-BY-SA 3.0), on\n\`pocketsphinx-testdata\` (public domain), and on steady sounds of the packages that bench/train/README.md names; no sound of them is in it.\n`,
);
