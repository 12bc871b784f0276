import { rm } from 'node:fs/promises';
import { MediaError } from './errors.js';
import { pictureOptions } from './foreign-input.js';
import { soundStart } from './picture.js';
import { probeJson, runTool, ToolFailure } from './tools.js';

/** A day of pictures at 700 kbit/s, and twice that. */
const FILE_MIB = 16 * 1024;
const CPU_SECONDS = 24 * 3600;
const MOST_LINES = 270;
const FRAMES_TO_A_KEY = 12;

/**
 * A small copy of a picture that every browser shows and finds its way in quickly: VP8 in WebM without sound, 270 lines at most, a frame
 * that stands by itself every twelve. Every frame keeps its time.
 * @returns when the first sample of the sound is heard, in seconds of the copy
 * @throws {MediaError} `encode-failed`, `disk-full`, `tool-limit`, `ffmpeg-missing` or `cancelled`
 */
export async function makePictureProxy(path: string, outPath: string, signal?: AbortSignal): Promise<{ readonly soundAtSeconds: number }> {
  const small = `scale=w=-2:h='min(${MOST_LINES},ih)'`;
  const codec = ['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '700k', '-g', String(FRAMES_TO_A_KEY)];
  try {
    await runTool(
      'ffmpeg',
      [
        ...['-y', ...pictureOptions(path), '-map', '0:V:0', '-an', '-sn', '-dn'],
        ...['-vf', small, ...codec, '-threads', '1', '-fps_mode', 'passthrough', '-map_metadata', '-1', '-f', 'webm', `file:${outPath}`],
      ],
      { signal, fileMiB: FILE_MIB, cpuSeconds: CPU_SECONDS },
    );
    return { soundAtSeconds: (await soundStart(path)) - (await clockStart(path)) };
  } catch (error) {
    await rm(outPath, { force: true });
    if (!(error instanceof ToolFailure)) throw error;
    throw new MediaError(
      'encode-failed',
      `The picture cannot be shown: ${error.said}. Its sound is treated and goes back into it all the same.`,
    );
  }
}

/** Where the clock of a file begins: its copy begins at 0. */
async function clockStart(path: string): Promise<number> {
  const { format } = await probeJson<{ format?: { start_time?: string } }>(path, ['-show_entries', 'format=start_time']);
  return Number(format?.start_time ?? 0) || 0;
}
