import { open, type FileHandle } from 'node:fs/promises';
import { arrangedFrames, readArranged, type Arrangement } from '@euphonos/engine';
import type { SoundBlock } from './sound-block.js';

const BLOCK_FRAMES = 32768;

/** Raw float files, one a channel, of which any span can be read; open until it is closed. */
export class ChannelFiles {
  private constructor(private readonly handles: readonly FileHandle[]) {}

  static async open(paths: readonly string[]): Promise<ChannelFiles> {
    return new ChannelFiles(await Promise.all(paths.map((path) => open(path, 'r'))));
  }

  /** Frames [startFrame, endFrame); silence where a file ends before. */
  async read(startFrame: number, endFrame: number): Promise<Float32Array[]> {
    return Promise.all(
      this.handles.map(async (handle) => {
        const samples = new Float32Array(endFrame - startFrame);
        await handle.read(new Uint8Array(samples.buffer), 0, samples.byteLength, startFrame * 4);
        return samples;
      }),
    );
  }

  async close(): Promise<void> {
    await Promise.all(this.handles.map((handle) => handle.close()));
  }
}

/** The sound of a track before its chain, from its first frame to its last. */
export async function* readArrangedFiles(paths: readonly string[], arrangement: Arrangement): AsyncGenerator<SoundBlock> {
  const files = await ChannelFiles.open(paths);
  const end = arrangedFrames(arrangement);
  try {
    for (let from = 0; from < end; from += BLOCK_FRAMES) {
      const frames = Math.min(BLOCK_FRAMES, end - from);
      yield {
        channels: await readArranged(arrangement, paths.length, (start, stop) => files.read(start, stop), from, from + frames),
        frames,
      };
    }
  } finally {
    await files.close();
  }
}
