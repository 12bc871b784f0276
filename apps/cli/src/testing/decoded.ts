import { execFileSync } from 'node:child_process';

/** A sound file as mono at 48 kHz, through a filter of ffmpeg's. */
export function decoded(path: string, filter = 'anull', ...before: readonly string[]): Float32Array {
  const how = ['-v', 'error', ...before, '-i', path, '-ac', '1', '-af', filter, '-ar', '48000', '-f', 'f32le', '-'];
  const bytes = execFileSync('ffmpeg', how, { maxBuffer: 1 << 28 });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}
