import { rename, rm } from 'node:fs/promises';
import { MediaError } from './errors.js';
import { inputOptions } from './foreign-input.js';
import { probeJson, runTool, ToolFailure } from './tools.js';

/** Containers with a picture that sound is put back into, and how it is written there: without loss where they hold that. */
const CONTAINERS: Readonly<
  Record<
    string,
    {
      readonly muxer: string;
      readonly codec: readonly string[];
      readonly lossy: boolean;
      readonly earlySeconds?: number;
      readonly mimeType: string;
    }
  >
> = {
  mp4: { muxer: 'mp4', codec: ['-c:a:0', 'aac'], lossy: true, mimeType: 'video/mp4' },
  mov: { muxer: 'mov', codec: ['-c:a:0', 'pcm_s24le'], lossy: false, mimeType: 'video/quicktime' },
  mkv: {
    muxer: 'matroska',
    codec: ['-c:a:0', 'flac', '-sample_fmt:a:0', 's32', '-bits_per_raw_sample:a:0', '24'],
    lossy: false,
    mimeType: 'video/x-matroska',
  },
  // ffmpeg 5.1 counts what Opus puts before the sound (312 frames) twice when it writes Matroska.
  webm: { muxer: 'webm', codec: ['-c:a:0', 'libopus'], lossy: true, earlySeconds: 312 / 48_000, mimeType: 'video/webm' },
};
export const pictureEndings: readonly string[] = Object.keys(CONTAINERS);
const USUAL_KBPS = 256;

export const pictureEnding = (path: string): string | undefined => {
  const ending = /\.([a-z0-9]+)$/i.exec(path)?.[1]?.toLowerCase();
  return ending && CONTAINERS[ending] ? ending : undefined;
};

/** What a file of that name is; undefined where it is no picture. */
export const pictureMimeType = (name: string): string | undefined => CONTAINERS[pictureEnding(name) ?? '']?.mimeType;

export interface PictureOptions {
  /** Where the ending codes with loss. */
  readonly bitrateKbps?: number | undefined;
  /** Other sound tracks and subtitles go along; left out, yes. */
  readonly keepOthers?: boolean;
  /** Ending that names the container; left out, that of the file that is written. */
  readonly ending?: string;
  readonly signal?: AbortSignal | undefined;
}

interface Stream {
  readonly codec_type: string;
  readonly disposition?: { readonly attached_pic?: number };
}

const streamsOf = async (path: string): Promise<readonly Stream[]> =>
  (await probeJson<{ streams: Stream[] }>(path, ['-show_entries', 'stream=codec_type:stream_disposition=attached_pic'])).streams;

/** When the first sample of the first sound track is heard, in seconds of the picture's clock: what an encoder put before it does not count. */
export async function soundStart(path: string): Promise<number> {
  const show = ['-select_streams', 'a:0', '-show_entries', 'frame=pts_time', '-read_intervals', '%+#4'];
  const { frames } = await probeJson<{ frames?: { pts_time?: string }[] }>(path, show);
  return Number(frames?.[0]?.pts_time ?? 0) || 0;
}

/** Whether a file has a moving picture. */
export async function hasPicture(path: string): Promise<boolean> {
  return (await streamsOf(path)).some(({ codec_type, disposition }) => codec_type === 'video' && !disposition?.attached_pic);
}

/**
 * Puts sound (a WAV as long as that of the picture's first sound track) in the place of that track. The picture is copied, not a bit of it is
 * touched; the sound begins when the one before began. The file appears when it is complete.
 * @throws {MediaError} `no-picture`, `encode-failed`, `disk-full`, `tool-limit`, `ffmpeg-missing` or `cancelled`
 */
export async function putIntoPicture(picturePath: string, soundPath: string, outPath: string, options: PictureOptions = {}): Promise<void> {
  const { bitrateKbps = USUAL_KBPS, keepOthers = true, signal } = options;
  const ending = options.ending ?? pictureEnding(outPath)!;
  const { muxer, codec, lossy, earlySeconds = 0 } = CONTAINERS[ending]!;
  const partPath = `${outPath}.part`;
  try {
    const streams = await streamsOf(picturePath);
    if (!streams.some(({ codec_type, disposition }) => codec_type === 'video' && !disposition?.attached_pic))
      throw new MediaError(
        'no-picture',
        `There is no picture in "${picturePath}" that the sound could go back into; name a sound file instead.`,
      );
    const start = (await soundStart(picturePath)) + earlySeconds;
    // The first sound track is the one that was cleaned. Data streams (time codes, cameras' own) fit no other container.
    const others = keepOthers ? ['-map', '0:a?', '-map', '-0:a:0', '-map', '0:s?'] : [];
    await runTool(
      'ffmpeg',
      [
        ...['-y', ...inputOptions(picturePath), ...(start === 0 ? [] : ['-itsoffset', String(start)])],
        ...['-i', `file:${soundPath}`, '-map', '0:v', '-map', '1:a:0', ...others, '-map_metadata', '0', '-map_chapters', '0'],
        ...['-c', 'copy', ...codec, ...(lossy ? ['-b:a:0', `${Math.round(bitrateKbps)}k`] : [])],
        // The picture's own clock is kept, and MP4 counts edits in samples.
        ...[
          '-copyts',
          '-avoid_negative_ts',
          'disabled',
          ...(muxer === 'mp4' ? ['-movie_timescale', '48000', '-movflags', '+faststart'] : []),
        ],
        ...['-f', muxer, `file:${partPath}`],
      ],
      { signal },
    );
    await rename(partPath, outPath);
  } catch (error) {
    throw failure(error, ending);
  } finally {
    await rm(partPath, { force: true });
  }
}

function failure(error: unknown, ending: string): unknown {
  if (!(error instanceof ToolFailure)) return error;
  return new MediaError(
    'encode-failed',
    `The sound could not be put into a file ending in .${ending}: ${error.said}. Not every container holds every picture; .mkv holds nearly all.`,
  );
}
