import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A folder for the files of one test suite. Returns its path and how to remove it. */
export function scratchFolder(): { path: (name: string) => string; remove: () => void } {
  const folder = mkdtempSync(join(tmpdir(), 'euphonos-'));
  return { path: (name) => join(folder, name), remove: () => rmSync(folder, { recursive: true, force: true }) };
}

interface WavOptions {
  readonly channels?: number;
  readonly sampleRateHz?: number;
  /** What the header says of the size of the samples; left out, the truth. */
  readonly claimedBytes?: number;
}

/** A WAV file of 32-bit floats, written byte by byte after the format's description (RIFF, WAVE_FORMAT_IEEE_FLOAT). */
export function writeFloatWav(
  path: string,
  interleaved: Float32Array,
  { channels = 1, sampleRateHz = 48000, claimedBytes }: WavOptions = {},
): void {
  const size = claimedBytes ?? interleaved.byteLength;
  const header = Buffer.alloc(44);
  header.write('RIFF', 0, 'ascii');
  header.writeUInt32LE(Math.min(0xffffffff, size + 36), 4);
  header.write('WAVEfmt ', 8, 'ascii');
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(3, 20);
  header.writeUInt16LE(channels, 22);
  header.writeUInt32LE(sampleRateHz, 24);
  header.writeUInt32LE(sampleRateHz * channels * 4, 28);
  header.writeUInt16LE(channels * 4, 32);
  header.writeUInt16LE(32, 34);
  header.write('data', 36, 'ascii');
  header.writeUInt32LE(Math.min(0xffffffff, size), 40);
  writeFileSync(path, Buffer.concat([header, Buffer.from(interleaved.buffer, interleaved.byteOffset, interleaved.byteLength)]));
}

/** Runs Debian's ffmpeg; returns what it says on stderr. */
export function ffmpeg(...args: string[]): string {
  return execFileSync('sh', ['-c', 'exec ffmpeg -nostdin -hide_banner -nostats -y "$@" 2>&1 >/dev/null', 'sh', ...args], {
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
}

/** What ffmpeg's own `ebur128` measures of a file: integrated loudness, range, true peak. */
export function ebur128(path: string): { integratedLufs: number; loudnessRangeLu: number; truePeakDbtp: number } {
  const summary = ffmpeg('-i', path, '-af', 'ebur128=peak=true:framelog=verbose', '-f', 'null', '-').split('Summary:').pop()!;
  const read = (label: RegExp): number => Number(label.exec(summary)![1]);
  return {
    integratedLufs: read(/I:\s+(-?[\d.]+) LUFS/),
    loudnessRangeLu: read(/LRA:\s+(-?[\d.]+) LU/),
    truePeakDbtp: read(/Peak:\s+(-?[\d.]+) dBFS/),
  };
}
