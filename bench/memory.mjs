// Peak memory of `clean` on 60 minutes against 3 minutes: the largest resident size that the kernel saw.
import { spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../scripts/lib/system.mjs';
import { folder, narration } from './sounds.mjs';

function peakMegabytes(args) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [join(root, 'apps/cli/dist-bundle/main.js'), ...args], {
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    let peak = 0;
    const watch = setInterval(() => {
      try {
        peak = Math.max(peak, Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024);
      } catch {
        // It has just ended.
      }
    }, 20);
    child.on('exit', (code) => {
      clearInterval(watch);
      if (code === 0) resolve(peak);
      else reject(new Error(`clean ended with ${code}`));
    });
  });
}

export async function run() {
  const chain = join(folder, 'memory-chain.json');
  writeFileSync(
    chain,
    JSON.stringify({
      treatments: [{ kind: 'high-pass' }, { kind: 'hum-notch', harmonics: 8 }, { kind: 'noise-reduction' }, { kind: 'gate' }],
    }),
  );
  const peak = (seconds) =>
    peakMegabytes([
      'clean',
      narration(seconds),
      join(folder, 'memory.wav'),
      '--chain',
      chain,
      '--noise',
      '0.2-2.2',
      '--loudness',
      '-16',
      '--ceiling',
      '-1',
    ]);
  const short = await peak(180);
  const long = await peak(3600);
  return [
    { what: 'peak memory, 3 minutes', value: short, unit: ' MB' },
    { what: 'peak memory, 60 minutes', value: long, unit: ' MB', limit: 200 },
    { what: 'ratio, 60 minutes to 3 minutes', value: long / short, limit: 1.1 },
  ];
}
