import { resolve } from 'node:path';
import type { NoiseOption } from './noise.js';
import type { OutputOptions } from './output.js';
import { parseNoise, parseNumber, UsageError } from './usage.js';

// npm runs scripts in the project's root; paths are meant from where the user stands.
export const path = (given: string): string => resolve(process.env['INIT_CWD'] ?? process.cwd(), given);

/** parseArgs takes a value that starts with a dash for an option; a negative number is meant as one. */
export function joinNegativeNumbers(args: readonly string[]): string[] {
  const joined: string[] = [];
  for (const arg of args) {
    const last = joined[joined.length - 1];
    if (/^-\.?\d/.test(arg) && last?.startsWith('--') && !last.includes('=')) joined[joined.length - 1] = `${last}=${arg}`;
    else joined.push(arg);
  }
  return joined;
}

interface FileValues {
  readonly bits?: string | undefined;
  readonly bitrate?: string | undefined;
  readonly rate?: string | undefined;
  readonly target?: string | undefined;
  readonly loudness?: string | undefined;
  readonly ceiling?: string | undefined;
}
/** How a result is to be written. */
export const outputOptions = (values: FileValues): OutputOptions => ({
  bits: values.bits,
  bitrateKbps: parseNumber('bitrate', values.bitrate, 8, 512),
  rateHz: parseNumber('rate', values.rate, 8000, 192_000),
  targetPath: values.target === undefined ? undefined : path(values.target),
  integratedLufs: parseNumber('loudness', values.loudness, -40, -8),
  ceilingDbtp: parseNumber('ceiling', values.ceiling, -12, 0),
});

/** Where the noise is known from. */
export function noiseOf({
  noise,
  profile: file,
}: {
  readonly noise?: string | undefined;
  readonly profile?: string | undefined;
}): NoiseOption | undefined {
  if (noise !== undefined && file !== undefined) throw new UsageError('Give --noise or --profile, not both.');
  return file !== undefined ? { profilePath: path(file) } : noise === undefined ? undefined : parseNoise(noise);
}
