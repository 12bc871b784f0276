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

/** Another stretch of a talk for each index, as 16-bit WAV: no two are of the same bytes. `talk`: such a WAV of 48 kHz, longer than that. */
export function stretch(talk, seconds, index) {
  const frames = Math.round(seconds * 48_000);
  const start = talk.indexOf('data') + 8;
  const from = start + 2 * ((index * 7919) % (Math.floor((talk.length - start) / 2) - frames));
  const header = Buffer.from(talk.subarray(0, start));
  header.writeUInt32LE(start - 8 + 2 * frames, 4);
  header.writeUInt32LE(2 * frames, start - 4);
  const sound = Buffer.from(talk.subarray(from, from + 2 * frames));
  sound.writeInt32LE(index, 0);
  return Buffer.concat([header, sound]);
}
