// The whole `clean` command on five minutes against Debian's ffmpeg doing the nearest chain: CPU time of each,
// children included, runs interleaved; the median of the ratios of neighbours.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../scripts/lib/system.mjs';
import { folder, median, narration } from './sounds.mjs';

const RUNS = 5;

/** User and system seconds of a command with all its children. */
function cpuSeconds(command, args) {
  const { status, stderr } = spawnSync('bash', ['-c', `TIMEFORMAT='%U %S'; time "$@"`, 'bash', command, ...args], {
    encoding: 'utf8',
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  if (status !== 0) throw new Error(stderr);
  const [user, system] = stderr.trim().split('\n').pop().split(' ').map(Number);
  return user + system;
}

export async function run() {
  const input = narration(300);
  const chain = join(folder, 'chain.json');
  writeFileSync(
    chain,
    JSON.stringify({
      treatments: [
        { kind: 'high-pass', cutoffHz: 80, slopeDbPerOctave: 48 },
        { kind: 'hum-notch', harmonics: 8 },
        { kind: 'noise-reduction' },
        { kind: 'gate' },
      ],
    }),
  );
  const ours = () =>
    cpuSeconds(process.execPath, [
      join(root, 'apps/cli/dist/main.js'),
      'clean',
      input,
      join(folder, 'ours.wav'),
      '--chain',
      chain,
      '--noise',
      '0.2-2.2',
      '--loudness',
      '-16',
      '--ceiling',
      '-1',
    ]);
  const notches = Array.from({ length: 8 }, (_, i) => `bandreject=f=${50 * (i + 1)}:width_type=h:w=3`);
  const filters = [
    ...Array(4).fill('highpass=f=80'),
    ...notches,
    'afftdn=nr=12',
    'agate',
    'ebur128=peak=true',
    'aresample=192000',
    'alimiter',
    'aresample=48000',
  ].join(',');
  const theirs = () =>
    cpuSeconds('ffmpeg', ['-nostdin', '-v', 'error', '-y', '-i', input, '-af', filters, '-c:a', 'pcm_s24le', join(folder, 'theirs.wav')]);
  ours();
  theirs();
  const pairs = Array.from({ length: RUNS }, () => ({ ours: ours(), theirs: theirs() }));
  return [
    { what: 'five minutes cleaned, CPU', value: median(pairs.map((pair) => pair.ours)), unit: ' s' },
    { what: 'ffmpeg, nearest chain, CPU', value: median(pairs.map((pair) => pair.theirs)), unit: ' s' },
    { what: 'ratio', value: median(pairs.map((pair) => pair.ours / pair.theirs)), limit: 0.7 },
  ];
}
