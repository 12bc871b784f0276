import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { scratch } from './server.ts';

export const RATE_HZ = 48000;
const root = join(import.meta.dirname, '../..');

/** Known sound, the same every time: noise and hum throughout, a tone of 100 Hz from 3 s on, words at 1.5–3 s and 6–9 s. */
export function knownSound(seconds = 10): Float32Array {
  let state = 7;
  const random = (): number => ((state = (state * 48271) % 2147483647) / 2147483647) * 2 - 1;
  return Float32Array.from({ length: seconds * RATE_HZ }, (_, n) => {
    const t = n / RATE_HZ;
    const noise = 0.012 * (random() + random() + random());
    const hum = 0.01 * Math.sin(2 * Math.PI * 50 * t);
    const tone = t >= 3 ? 0.1 * Math.sin(2 * Math.PI * 100 * t) : 0;
    const syllable = Math.max(0, Math.sin(2 * Math.PI * 2.5 * t));
    const speaks = (t >= 1.5 && t < 3) || (t >= 6 && t < 9);
    const word = speaks
      ? 0.2 * syllable * (Math.sin(2 * Math.PI * 220 * t) + 0.5 * Math.sin(2 * Math.PI * 660 * t) + 0.3 * Math.sin(2 * Math.PI * 1980 * t))
      : 0;
    return noise + hum + tone + word;
  });
}

/** Writes floats to a file; of several channels the samples are interleaved. */
export function writeWav(name: string, samples: Float32Array, channels = 1): string {
  const path = join(scratch, name);
  writeFileSync(`${path}.raw`, Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
  execFileSync('ffmpeg', [
    '-nostdin',
    '-v',
    'error',
    '-y',
    '-f',
    'f32le',
    '-ar',
    String(RATE_HZ),
    '-ac',
    String(channels),
    '-i',
    `${path}.raw`,
    '-c:a',
    'pcm_f32le',
    path,
  ]);
  return path;
}

export function readSamples(path: string): Float32Array {
  const bytes = execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-i', path, '-f', 'f32le', '-c:a', 'pcm_f32le', 'pipe:1'], {
    maxBuffer: 1 << 28,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

export const measure = (path: string): Record<string, number> =>
  JSON.parse(execFileSync(process.execPath, [join(root, 'apps/cli/dist-bundle/main.js'), 'measure', path], { encoding: 'utf8' })) as Record<
    string,
    number
  >;

/** RMS in dBFS of samples[from … to). */
export function levelDb(samples: Float32Array, from = 0, to = samples.length): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n]! ** 2;
  return 10 * Math.log10(sum / Math.max(1, to - from) + 1e-30);
}

/** Level of one frequency in samples[from … to), by correlation under a Hann window. */
export function toneDb(samples: Float32Array, hz: number, from: number, to: number): number {
  let re = 0,
    im = 0,
    weights = 0;
  for (let n = from; n < to; n++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (n - from)) / (to - from));
    re += w * samples[n]! * Math.cos((2 * Math.PI * hz * n) / RATE_HZ);
    im += w * samples[n]! * Math.sin((2 * Math.PI * hz * n) / RATE_HZ);
    weights += w;
  }
  return 20 * Math.log10((2 * Math.hypot(re, im)) / weights + 1e-15);
}
