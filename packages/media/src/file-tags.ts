import { formatFacts, type FileSpec, type Tags } from '@euphonos/engine';
import type { BroadcastTags } from './broadcast.js';

/** A named stretch, in seconds. */
export interface Chapter {
  readonly title: string;
  readonly startSeconds: number;
  readonly endSeconds: number;
}

export interface FileExtras {
  readonly tags?: Partial<Tags>;
  readonly chapters?: readonly Chapter[];
  /** Of a broadcast WAV; other formats leave it out. */
  readonly broadcast?: BroadcastTags;
  /** Places and stretches with names, in seconds; WAV alone holds them (cue points). */
  readonly cues?: readonly { readonly atSeconds: number; readonly seconds: number | null; readonly name: string; readonly note: string }[];
  /** Path of a JPEG or PNG. */
  readonly coverPath?: string;
}

/** Formats that hold a picture beside the sound, as ffmpeg writes them. */
export const HOLDS_COVER: ReadonlySet<string> = new Set(['mp3', 'm4a', 'flac']);
/** Formats that hold chapters: of their own, or as Vorbis comments (Xiph's chapter extension), which are written here: ffmpeg 5.1 rounds their seconds up. */
export const OWN_CHAPTERS: ReadonlySet<string> = new Set(['mp3', 'm4a']);
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

/** MP4 keeps chapters as a track of texts one after the other, from the beginning on: what lies between them is one, too, without a name. */
function withoutGaps(chapters: readonly Chapter[]): Chapter[] {
  let end = 0;
  return chapters.flatMap((chapter) => {
    const gap = { title: NO_CHAPTER, startSeconds: end, endSeconds: chapter.startSeconds };
    end = chapter.endSeconds;
    return gap.endSeconds - gap.startSeconds > LEAST_GAP_SECONDS ? [gap, chapter] : [chapter];
  });
}
const NO_CHAPTER = '–';
const LEAST_GAP_SECONDS = 0.001;

/** Extras as a format holds them. */
export function heldBy(
  { format }: FileSpec,
  { tags = {}, chapters = [], broadcast = {} }: FileExtras,
): { tags: Readonly<Record<string, string | undefined>>; chapters: readonly Chapter[] } {
  if (format === 'wav') return { tags: { ...tags, ...broadcast }, chapters: [] };
  if (OWN_CHAPTERS.has(format)) return { tags: { ...tags }, chapters: format === 'm4a' ? withoutGaps(chapters) : chapters };
  return { tags: { ...tags, ...(COMMENTED_CHAPTERS.has(format) ? commentedChapters(chapters) : {}) }, chapters: [] };
}
