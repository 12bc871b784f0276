import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { root, stateFolder } from '../scripts/lib/system.mjs';

export const folder = join(stateFolder, 'bench');
mkdirSync(folder, { recursive: true });

/** The demo's narration, repeated to a length; made once and kept. */
export function narration(seconds, name = `narration-${seconds}.wav`, coding = ['-c:a', 'pcm_s16le']) {
  const path = join(folder, name);
  if (existsSync(path)) return path;
  const { status } = spawnSync(
    'ffmpeg',
    ['-nostdin', '-v', 'error', '-y', '-stream_loop', '-1', '-i', join(root, 'demo/narrator.flac'), '-t', String(seconds), ...coding, path],
    { stdio: 'inherit' },
  );
  if (status !== 0) throw new Error(`ffmpeg could not make ${path}`);
  return path;
}

export const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
