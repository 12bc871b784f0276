import type { RecordingFacts } from '@euphonos/contracts';
import { formatOfName, PLAIN_FILE, type BitDepth, type FileFormat, type FileSpec } from '@euphonos/engine';

/** Containers as ffprobe names them, where an ending says nothing. */
const FORMATS: readonly (readonly [pattern: RegExp, format: FileFormat])[] = [
  [/^(wav|w64|rf64)$/, 'wav'],
  [/^aiff$/, 'aiff'],
  [/^flac$/, 'flac'],
  [/^mp3$/, 'mp3'],
  [/mp4|m4a|mov/, 'm4a'],
  [/^ogg$/, 'ogg'],
];

function bitsOf(codec: string): BitDepth {
  if (/f32|f64/.test(codec)) return '32f';
  return /s16|u8|s8|alaw|mulaw/.test(codec) ? 16 : 24;
}

/** How a file is written that is to lie in the place of another: its format, depth and rate. What comes from a picture is a WAV. */
export function fileLike(fileName: string, { format, codec, fileSampleRateHz, picture }: RecordingFacts): FileSpec {
  const known = picture ? 'wav' : (formatOfName(fileName) ?? FORMATS.find(([pattern]) => pattern.test(format))?.[1] ?? 'wav');
  const kept = codec === 'opus' ? 'opus' : known;
  return {
    ...PLAIN_FILE,
    format: kept,
    bits: kept === 'wav' ? bitsOf(codec) : bitsOf(codec) === '32f' ? 24 : bitsOf(codec),
    bitrateKbps: kept === 'opus' ? 128 : PLAIN_FILE.bitrateKbps,
    sampleRateHz: kept === 'opus' ? null : fileSampleRateHz,
  };
}
