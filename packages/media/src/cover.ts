import { rm } from 'node:fs/promises';
import { inputOptions } from './foreign-input.js';
import { probeJson, runTool } from './tools.js';

/** A larger one is no cover. */
const LIMITS = { cpuSeconds: 60, fileMiB: 64 };

/** Writes the picture that a sound file brought along (a cover) as it is; false, and no file, where it has none. */
export async function takeCover(path: string, outPath: string): Promise<boolean> {
  try {
    const { streams } = await probeJson<{
      streams: { index: number; codec_name?: string; disposition?: { attached_pic?: number } }[];
    }>(path, ['-show_entries', 'stream=index,codec_name:stream_disposition=attached_pic']);
    const cover = streams.find(({ disposition, codec_name }) => disposition?.attached_pic && /^(mjpeg|png)$/.test(codec_name ?? ''));
    if (!cover) return false;
    const copy = ['-map', `0:${cover.index}`, '-c', 'copy', '-frames:v', '1', '-update', '1', '-f', 'image2', `file:${outPath}`];
    await runTool('ffmpeg', ['-y', ...inputOptions(path), ...copy], LIMITS);
    return true;
  } catch {
    // A picture that cannot be taken is no reason not to write the sound.
    await rm(outPath, { force: true });
    return false;
  }
}
