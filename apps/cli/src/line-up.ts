import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lineUp, type LineUp, type ReadableSound } from '@euphonos/dsp';
import { decodeSound, loadKernels, newReport, probeSound, RawWriter, ReelReader } from '@euphonos/media';

/**
 * How the second file lies on the time of the first, by what both hear; null where they share too little. Both are decoded to files of
 * one channel that are gone afterwards, so that hours need no memory.
 */
export async function lineUpFiles(firstPath: string, secondPath: string): Promise<LineUp | null> {
  const folder = await mkdtemp(join(tmpdir(), 'euphonos-line-up-'));
  const opened: ReelReader[] = [];
  try {
    const { sampleRateHz } = await probeSound(firstPath);
    const readable = async (path: string, name: string): Promise<ReadableSound> => {
      const file = join(folder, name);
      const frames = await decodeAsOne(path, sampleRateHz, file);
      const reader = await ReelReader.open([{ startFrame: 0, frames, paths: [file] }]);
      opened.push(reader);
      return { frames, read: async (from, to) => (await reader.read(from, to))[0]! };
    };
    const [first, second] = [await readable(firstPath, 'first'), await readable(secondPath, 'second')];
    return await lineUp(loadKernels(), sampleRateHz, first, second);
  } finally {
    await Promise.all(opened.map((reader) => reader.close()));
    await rm(folder, { recursive: true, force: true });
  }
}

/** All channels as one, at a rate, to a file of floats; returns its frames. */
async function decodeAsOne(path: string, sampleRateHz: number, file: string): Promise<number> {
  const writer = new RawWriter(file);
  const report = newReport();
  try {
    for await (const { channels, frames } of decodeSound(path, await probeSound(path), { sampleRateHz }, report)) {
      const one = channels[0]!.slice(0, frames);
      for (const other of channels.slice(1)) for (let n = 0; n < frames; n++) one[n]! += other[n]!;
      await writer.write({ channels: [one], frames });
    }
  } finally {
    await writer.finish();
  }
  return report.frames;
}
