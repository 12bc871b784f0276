import { rename, rm, writeFile } from 'node:fs/promises';
import { bitsOf, kbpsOf, type FileSpec } from '@euphonos/engine';
import { addCues, type Cue } from './cues.js';
import { asMediaError, MediaError } from './errors.js';
import { heldBy, HOLDS_COVER, metadataFile, OWN_CHAPTERS, type FileExtras } from './file-tags.js';
import { runTool, ToolFailure } from './tools.js';
import type { WavFormat } from './wav-header.js';

/** Of the sound that is written. */
interface Shape {
  readonly sampleRateHz: number;
  readonly channels: number;
}

/** The WAV that the file is made of: whole numbers where its depth is kept, floats for codecs, which round by themselves. */
export function wavFormatFor(spec: FileSpec): WavFormat {
  const bits = bitsOf(spec);
  return bits === 16 ? 'pcm16' : bits === 24 ? 'pcm24' : 'float32';
}

/** How ffmpeg writes a format. Ends are cut to the sample: MP4 counts its time in samples, Ogg in granules, layer III says its delay and padding. */
function codecOptions(spec: FileSpec, { sampleRateHz, channels }: Shape): string[] {
  const kbps = `${kbpsOf(spec, sampleRateHz, channels)}k`;
  switch (spec.format) {
    case 'wav':
      return ['-c:a', 'copy', '-rf64', 'auto', '-f', 'wav'];
    case 'aiff':
      return ['-c:a', bitsOf(spec) === 16 ? 'pcm_s16be' : 'pcm_s24be', '-write_id3v2', '1', '-f', 'aiff'];
    case 'flac':
      return [
        '-c:a',
        'flac',
        ...(bitsOf(spec) === 16 ? ['-sample_fmt', 's16'] : ['-sample_fmt', 's32', '-bits_per_raw_sample', '24']),
        '-f',
        'flac',
      ];
    case 'mp3':
      return [
        '-c:a',
        'libmp3lame',
        ...(spec.variable ? ['-abr', '1'] : []),
        '-b:a',
        kbps,
        '-write_xing',
        '1',
        '-id3v2_version',
        '3',
        '-f',
        'mp3',
      ];
    case 'm4a':
      return ['-c:a', 'aac', '-b:a', kbps, '-movie_timescale', String(sampleRateHz), '-movflags', '+faststart', '-f', 'ipod'];
    case 'opus':
      return ['-c:a', 'libopus', '-b:a', kbps, '-vbr', spec.variable ? 'on' : 'off', '-f', 'opus'];
    case 'ogg':
      return ['-c:a', 'libvorbis', '-b:a', kbps, '-f', 'ogg'];
  }
}

/**
 * Makes the file of a WAV (see `wavFormatFor`) that was written for it, with its tags, chapters and picture. A plain WAV is only renamed.
 * The file appears when it is complete.
 * @throws {MediaError} `encode-failed`, `disk-full`, `tool-limit`, `ffmpeg-missing` or `cancelled`
 */
export async function writeFileFrom(
  wavPath: string,
  outPath: string,
  spec: FileSpec,
  shape: Shape,
  extras: FileExtras = {},
  signal?: AbortSignal,
): Promise<void> {
  const wants =
    Object.values(extras.tags ?? {}).some(Boolean) ||
    (extras.chapters?.length ?? 0) > 0 ||
    extras.coverPath !== undefined ||
    extras.broadcast !== undefined;
  if (spec.format === 'wav' && !wants) {
    await addCues(wavPath, cuesOf(extras, shape));
    return rename(wavPath, outPath);
  }
  const metadataPath = `${wavPath}.tags`;
  const partPath = `${wavPath}.encoded`;
  const cover = extras.coverPath !== undefined && HOLDS_COVER.has(spec.format);
  try {
    await writeFile(metadataPath, metadataFile(heldBy(spec, extras)));
    const inputs = ['-i', `file:${wavPath}`, '-f', 'ffmetadata', '-i', `file:${metadataPath}`];
    const picture = cover ? ['-i', `file:${extras.coverPath}`] : [];
    const maps = ['-map', '0:a:0', ...(cover ? ['-map', '2:v:0', '-c:v', 'copy', '-disposition:v:0', 'attached_pic'] : [])];
    const meta = ['-map_metadata', '1', '-map_chapters', OWN_CHAPTERS.has(spec.format) ? '1' : '-1'];
    await runTool(
      'ffmpeg',
      // Without the encoder's version and the time of day the same sound makes the same bytes.
      [
        '-y',
        ...inputs,
        ...picture,
        ...maps,
        ...meta,
        '-fflags',
        '+bitexact',
        '-flags:a',
        '+bitexact',
        ...codecOptions(spec, shape),
        ...(spec.format === 'wav' && extras.broadcast ? ['-write_bext', '1'] : []),
        `file:${partPath}`,
      ],
      { signal },
    );
    if (spec.format === 'wav') await addCues(partPath, cuesOf(extras, shape));
    await rename(partPath, outPath);
  } catch (error) {
    if (error instanceof ToolFailure) throw new MediaError('encode-failed', `The file could not be written: ${error.said}.`);
    const known = asMediaError(error);
    throw known === error && !(error instanceof MediaError)
      ? new MediaError('encode-failed', `The file could not be written: ${(error as Error).message}.`)
      : known;
  } finally {
    await rm(metadataPath, { force: true });
    await rm(partPath, { force: true });
    await rm(wavPath, { force: true });
  }
}

const cuesOf = ({ cues = [] }: FileExtras, { sampleRateHz }: Shape): Cue[] =>
  cues.map(({ atSeconds, seconds, name, note }) => ({
    frame: Math.round(atSeconds * sampleRateHz),
    frames: seconds === null ? null : Math.max(1, Math.round(seconds * sampleRateHz)),
    name,
    note,
  }));
