import { spawnSync } from 'node:child_process';
import { join } from 'node:path';

export const MAIN = join(__dirname, '../../dist-bundle/main.js');

/** Runs the built command line. */
export function cli(...args: string[]): { code: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [MAIN, ...args], { encoding: 'utf8' });
  return { code: status, out: stdout, err: stderr };
}
