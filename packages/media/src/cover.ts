import { execFile } from 'node:child_process';
import { rm } from 'node:fs/promises';
import { promisify } from 'node:util';
import { inputOptions } from './probe.js';

const run = promisify(execFile);

/** Writes the picture that a sound file brought along (a cover) as it is; false, and no file, where it has none. */
export async function takeCover(path: string, outPath: string): Promise<boolean> {
  try {
    const ask = ['-v', 'error', '-of', 'json', '-show_entries', 'stream=index,codec_name:stream_disposition=attached_pic'];
    const { stdout } = await run('ffprobe', [...ask, ...inputOptions(path)], { maxBuffer: 1 << 24 });
    const { streams } = JSON.parse(stdout) as {
      streams: { index: number; codec_name?: string; disposition?: { attached_pic?: number } }[];
    };
    const cover = streams.find(({ disposition, codec_name }) => disposition?.attached_pic && /^(mjpeg|png)$/.test(codec_name ?? ''));
    if (!cover) return false;
    const copy = ['-map', `0:${cover.index}`, '-c', 'copy', '-frames:v', '1', '-update', '1', '-f', 'image2', `file:${outPath}`];
    await run('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...inputOptions(path), ...copy], { maxBuffer: 1 << 24 });
    return true;
  } catch {
    // A picture that cannot be taken is no reason not to write the sound.
    await rm(outPath, { force: true });
    return false;
  }
}
