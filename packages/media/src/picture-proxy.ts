import { execFile } from 'node:child_process';
import { rm } from 'node:fs/promises';
import { promisify } from 'node:util';
import { asMediaError, MediaError } from './errors.js';
import { soundStart } from './picture.js';
import { inputOptions } from './probe.js';

const run = promisify(execFile);
const MOST_LINES = 270;
const FRAMES_TO_A_KEY = 12;

/**
 * A small copy of a picture that every browser shows and finds its way in quickly: VP8 in WebM without sound, 270 lines at most, a frame
 * that stands by itself every twelve. Every frame keeps its time.
 * @returns when the first sample of the sound is heard, in seconds of the copy
 * @throws {MediaError} `encode-failed`, `disk-full`, `ffmpeg-missing` or `cancelled`
 */
export async function makePictureProxy(path: string, outPath: string, signal?: AbortSignal): Promise<{ readonly soundAtSeconds: number }> {
  const small = `scale=w=-2:h='min(${MOST_LINES},ih)'`;
  const codec = ['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '700k', '-g', String(FRAMES_TO_A_KEY)];
  try {
    await run(
      'ffmpeg',
      [
        ...['-nostdin', '-v', 'error', '-y', '-threads', '1', ...inputOptions(path), '-map', '0:V:0', '-an', '-sn', '-dn'],
        ...['-vf', small, ...codec, '-threads', '1', '-fps_mode', 'passthrough', '-map_metadata', '-1', '-f', 'webm', `file:${outPath}`],
      ],
      { maxBuffer: 1 << 24, ...(signal && { signal }) },
    );
    return { soundAtSeconds: (await soundStart(path)) - (await clockStart(path)) };
  } catch (error) {
    await rm(outPath, { force: true });
    if (signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
    const { code, stderr = '' } = error as NodeJS.ErrnoException & { readonly stderr?: string };
    if (code === 'ENOENT') throw new MediaError('ffmpeg-missing', 'ffmpeg is not installed; it is a Debian package.');
    const [said = (error as Error).message] = stderr.trim().split('\n');
    if (/no space left|disk quota/i.test(stderr)) throw asMediaError(Object.assign(new Error(said), { code: 'ENOSPC' }));
    throw new MediaError('encode-failed', `The picture cannot be shown: ${said}. Its sound is treated and goes back into it all the same.`);
  }
}

/** Where the clock of a file begins: its copy begins at 0. */
async function clockStart(path: string): Promise<number> {
  const { stdout } = await run('ffprobe', ['-v', 'error', '-of', 'json', '-show_entries', 'format=start_time', ...inputOptions(path)]);
  return Number((JSON.parse(stdout) as { format?: { start_time?: string } }).format?.start_time ?? 0) || 0;
}
