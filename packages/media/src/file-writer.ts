import { execFile } from 'node:child_process';
import { rename, rm, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { bitsOf, formatFacts, LAYER_3_KBPS, type FileSpec } from '@euphonos/engine';
import { asMediaError, MediaError } from './errors.js';
import type { WavFormat } from './wav-header.js';

/** What a file tells of itself besides its sound. */
export interface FileTags {
  readonly title?: string;
  readonly artist?: string;
  readonly album?: string;
  readonly date?: string;
  readonly comment?: string;
}

/** A named stretch, in seconds. */
export interface Chapter {
  readonly title: string;
  readonly startSeconds: number;
  readonly endSeconds: number;
}

export interface FileExtras {
  readonly tags?: FileTags;
  readonly chapters?: readonly Chapter[];
  /** Path of a JPEG or PNG. */
  readonly coverPath?: string;
}

const run = promisify(execFile);

/** The WAV that the file is made of: whole numbers where its depth is kept, floats for codecs, which round by themselves. */
export function wavFormatFor(spec: FileSpec): WavFormat {
  const bits = bitsOf(spec);
  return bits === 16 ? 'pcm16' : bits === 24 ? 'pcm24' : 'float32';
}

const nearest = (steps: readonly number[], wished: number): number =>
  steps.reduce((best, one) => (Math.abs(one - wished) < Math.abs(best - wished) ? one : best));

/** Levels of quality of a variable rate, by what they come to for talk in one channel and in two: measured with libmp3lame, 48 kHz. */
function layer3Rate({ variable, bitrateKbps }: FileSpec): string[] {
  if (!variable) return ['-b:a', `${nearest(LAYER_3_KBPS, bitrateKbps)}k`];
  return ['-abr', '1', '-b:a', `${Math.round(bitrateKbps)}k`];
}

/** How ffmpeg writes a format. Ends are cut to the sample: MP4 counts its time in samples, Ogg in granules, layer III says its delay and padding. */
function codecOptions(spec: FileSpec, sampleRateHz: number): string[] {
  const kbps = `${Math.round(spec.bitrateKbps)}k`;
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
      return ['-c:a', 'libmp3lame', ...layer3Rate(spec), '-write_xing', '1', '-id3v2_version', '3', '-f', 'mp3'];
    case 'm4a':
      return ['-c:a', 'aac', '-b:a', kbps, '-movie_timescale', String(sampleRateHz), '-movflags', '+faststart', '-f', 'ipod'];
    case 'opus':
      return ['-c:a', 'libopus', '-b:a', kbps, '-vbr', spec.variable ? 'on' : 'off', '-f', 'opus'];
    case 'ogg':
      return ['-c:a', 'libvorbis', '-b:a', kbps, '-f', 'ogg'];
  }
}

/** Formats that hold a picture beside the sound, as ffmpeg writes them. */
const HOLDS_COVER: ReadonlySet<string> = new Set(['mp3', 'm4a', 'flac']);
/** Formats that hold chapters: of their own, or as Vorbis comments (Xiph's chapter extension), which are written here: ffmpeg 5.1 rounds their seconds up. */
const OWN_CHAPTERS: ReadonlySet<string> = new Set(['mp3', 'm4a']);
const COMMENTED_CHAPTERS: ReadonlySet<string> = new Set(['flac', 'opus', 'ogg']);

/** What of the extras a format cannot hold, in words. */
export function leftOut({ format }: Pick<FileSpec, 'format'>, { coverPath, chapters }: FileExtras): string[] {
  const { title } = formatFacts[format];
  return [
    ...(coverPath && !HOLDS_COVER.has(format) ? [`${title} is written without the picture.`] : []),
    ...(chapters?.length && !OWN_CHAPTERS.has(format) && !COMMENTED_CHAPTERS.has(format) ? [`${title} is written without chapters.`] : []),
  ];
}

/** Text of ffmpeg's metadata files: =, ;, #, \ and line breaks are escaped. */
const escaped = (text: string): string => text.replace(/[=;#\\\n]/g, '\\$&');

/** ffmpeg's own metadata format, version 1: tags, then chapters in milliseconds. */
export function metadataFile({
  tags,
  chapters,
}: {
  readonly tags: Readonly<Record<string, string | undefined>>;
  readonly chapters: readonly Chapter[];
}): string {
  const lines = [';FFMETADATA1', ...Object.entries(tags).flatMap(([key, value]) => (value ? [`${key}=${escaped(value)}`] : []))];
  for (const { title, startSeconds, endSeconds } of chapters)
    lines.push(
      '[CHAPTER]',
      'TIMEBASE=1/1000',
      `START=${Math.round(1000 * startSeconds)}`,
      `END=${Math.round(1000 * endSeconds)}`,
      `title=${escaped(title)}`,
    );
  return `${lines.join('\n')}\n`;
}

/** Chapters as comments: CHAPTER000=hh:mm:ss.mmm, CHAPTER000NAME=… */
function commentedChapters(chapters: readonly Chapter[]): Record<string, string> {
  const two = (value: number): string => String(value).padStart(2, '0');
  return Object.fromEntries(
    chapters.flatMap(({ title, startSeconds }, i) => {
      const ms = Math.round(1000 * startSeconds);
      const time = `${two(Math.floor(ms / 3_600_000))}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`;
      const key = `CHAPTER${String(i).padStart(3, '0')}`;
      return [
        [key, time],
        [`${key}NAME`, title],
      ];
    }),
  );
}

/** Extras as a format holds them. */
function heldBy(
  { format }: FileSpec,
  { tags = {}, chapters = [] }: FileExtras,
): { tags: Readonly<Record<string, string | undefined>>; chapters: readonly Chapter[] } {
  if (OWN_CHAPTERS.has(format)) return { tags: { ...tags }, chapters };
  return { tags: { ...tags, ...(COMMENTED_CHAPTERS.has(format) ? commentedChapters(chapters) : {}) }, chapters: [] };
}

/**
 * Makes the file of a WAV (see `wavFormatFor`) that was written for it, with its tags, chapters and picture. A plain WAV is only renamed.
 * The file appears when it is complete.
 * @throws {MediaError} `encode-failed`, `disk-full`, `ffmpeg-missing` or `cancelled`
 */
export async function writeFileFrom(
  wavPath: string,
  outPath: string,
  spec: FileSpec,
  sampleRateHz: number,
  extras: FileExtras = {},
  signal?: AbortSignal,
): Promise<void> {
  const wants = Object.values(extras.tags ?? {}).some(Boolean) || (extras.chapters?.length ?? 0) > 0 || extras.coverPath !== undefined;
  if (spec.format === 'wav' && !wants) return rename(wavPath, outPath);
  const metadataPath = `${wavPath}.tags`;
  const partPath = `${wavPath}.encoded`;
  const cover = extras.coverPath !== undefined && HOLDS_COVER.has(spec.format);
  try {
    await writeFile(metadataPath, metadataFile(heldBy(spec, extras)));
    const inputs = ['-i', `file:${wavPath}`, '-f', 'ffmetadata', '-i', `file:${metadataPath}`];
    const picture = cover ? ['-i', `file:${extras.coverPath}`] : [];
    const maps = ['-map', '0:a:0', ...(cover ? ['-map', '2:v:0', '-c:v', 'copy', '-disposition:v:0', 'attached_pic'] : [])];
    const meta = ['-map_metadata', '1', '-map_chapters', OWN_CHAPTERS.has(spec.format) ? '1' : '-1'];
    await run(
      'ffmpeg',
      // Without the encoder's version and the time of day the same sound makes the same bytes.
      [
        '-nostdin',
        '-v',
        'error',
        '-y',
        ...inputs,
        ...picture,
        ...maps,
        ...meta,
        '-fflags',
        '+bitexact',
        '-flags:a',
        '+bitexact',
        ...codecOptions(spec, sampleRateHz),
        `file:${partPath}`,
      ],
      { maxBuffer: 1 << 24, ...(signal && { signal }) },
    );
    await rename(partPath, outPath);
  } catch (error) {
    if (signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
    throw failure(error);
  } finally {
    await rm(metadataPath, { force: true });
    await rm(partPath, { force: true });
    await rm(wavPath, { force: true });
  }
}

function failure(error: unknown): unknown {
  const { code, stderr } = error as NodeJS.ErrnoException & { readonly stderr?: string };
  if (code === 'ENOENT') return new MediaError('ffmpeg-missing', 'ffmpeg is not installed; it is a Debian package.');
  const said = stderr?.trim().split('\n').slice(-1)[0] ?? (error as Error).message;
  if (/no space left|disk quota/i.test(stderr ?? '')) return asMediaError(Object.assign(new Error(said), { code: 'ENOSPC' }));
  const known = asMediaError(error);
  return known === error ? new MediaError('encode-failed', `The file could not be written: ${said}.`) : known;
}
