// The whole `clean` command against Debian's ffmpeg doing the nearest chain: CPU time of each, children included, runs interleaved; the
// median of the ratios of neighbours. Ten seconds (what a start costs), five minutes, an hour; with the light network and the full one.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../scripts/lib/system.mjs';
import { folder, median, narration } from './sounds.mjs';

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

function chainFile(network) {
  const path = join(folder, `chain-${network}.json`);
  const treatments = [
    { kind: 'high-pass', cutoffHz: 80, slopeDbPerOctave: 48 },
    { kind: 'hum-notch', harmonics: 8 },
    { kind: 'noise-reduction', network },
    { kind: 'gate' },
  ];
  writeFileSync(path, JSON.stringify({ treatments }));
  return path;
}

const FILTERS = [
  ...Array(4).fill('highpass=f=80'),
  ...Array.from({ length: 8 }, (_, i) => `bandreject=f=${50 * (i + 1)}:width_type=h:w=3`),
  'afftdn=nr=12',
  'agate',
  'ebur128=peak=true',
  'aresample=192000',
  'alimiter',
  'aresample=48000',
].join(',');

function ours(input, network) {
  const ways = ['--chain', chainFile(network), '--noise', '0.2-2.2', '--loudness', '-16', '--ceiling', '-1'];
  return cpuSeconds(process.execPath, [join(root, 'apps/cli/dist-bundle/main.js'), 'clean', input, join(folder, 'ours.wav'), ...ways]);
}

const theirs = (input) =>
  cpuSeconds('ffmpeg', ['-nostdin', '-v', 'error', '-y', '-i', input, '-af', FILTERS, '-c:a', 'pcm_s24le', join(folder, 'theirs.wav')]);

/** Runs of the three, one beside the other. */
function compared(seconds, runs) {
  const input = narration(seconds);
  const rounds = Array.from({ length: runs }, () => ({ light: ours(input, 'light'), full: ours(input, 'full'), theirs: theirs(input) }));
  return {
    light: median(rounds.map(({ light, theirs: by }) => light / by)),
    full: median(rounds.map(({ full, theirs: by }) => full / by)),
  };
}

export async function run() {
  const short = narration(10);
  const start = median(Array.from({ length: 5 }, () => ours(short, 'light')));
  const minutes = compared(300, 5);
  const hour = compared(3600, 1);
  return [
    { what: 'ten seconds cleaned, CPU', value: start, limit: 1.2, unit: ' s' },
    { what: 'five minutes, light network, to ffmpeg', value: minutes.light, limit: 0.6 },
    { what: 'five minutes, full network, to ffmpeg', value: minutes.full },
    { what: 'an hour, light network, to ffmpeg', value: hour.light, limit: 0.45 },
    { what: 'an hour, full network, to ffmpeg', value: hour.full, limit: 0.9 },
  ];
}
