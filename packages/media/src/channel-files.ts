import { open, type FileHandle } from 'node:fs/promises';
import { createBlock } from '@euphonos/dsp';
import { arrangedFrames, readArranged, type Arrangement } from '@euphonos/engine';
import type { SoundBlock } from './sound-block.js';

const BLOCK_FRAMES = 32768;

/** A recording on a reel as it lies on the disk: raw float files, one a channel that is heard. */
export interface ReelFiles {
  readonly startFrame: number;
  readonly frames: number;
  readonly paths: readonly string[];
}

/** Reads any span of the files of a reel, until it is closed. */
export class ReelReader {
  private constructor(private readonly parts: readonly (ReelFiles & { readonly handles: readonly FileHandle[] })[]) {}

  static async open(reel: readonly ReelFiles[]): Promise<ReelReader> {
    return new ReelReader(
      await Promise.all(reel.map(async (part) => ({ ...part, handles: await Promise.all(part.paths.map((path) => open(path, 'r'))) }))),
    );
  }

  get channels(): number {
    return this.parts[0]?.handles.length ?? 0;
  }

  /** Frames [startFrame, endFrame) of the reel; silence between the recordings, and where a file ends before. */
  async read(startFrame: number, endFrame: number): Promise<Float32Array[]> {
    const out = createBlock(this.channels, endFrame - startFrame);
    for (const part of this.parts) {
      const from = Math.max(startFrame, part.startFrame);
      const to = Math.min(endFrame, part.startFrame + part.frames);
      if (from >= to) continue;
      await Promise.all(
        part.handles.map((handle, c) => {
          const into = new Uint8Array(out[c]!.buffer, (from - startFrame) * 4, (to - from) * 4);
          return handle.read(into, 0, into.length, (from - part.startFrame) * 4);
        }),
      );
    }
    return out;
  }

  async close(): Promise<void> {
    await Promise.all(this.parts.flatMap(({ handles }) => handles.map((handle) => handle.close())));
  }
}

/** One span of a reel. */
export async function readReelSpan(reel: readonly ReelFiles[], startFrame: number, endFrame: number): Promise<Float32Array[]> {
  const files = await ReelReader.open(reel);
  try {
    return await files.read(startFrame, endFrame);
  } finally {
    await files.close();
  }
}

/** The sound of a track before its chain, from its first frame, or another one, to its last. */
export async function* readArrangedFiles(reel: readonly ReelFiles[], arrangement: Arrangement, startFrame = 0): AsyncGenerator<SoundBlock> {
  const files = await ReelReader.open(reel);
  const end = arrangedFrames(arrangement);
  try {
    for (let from = startFrame; from < end; from += BLOCK_FRAMES) {
      const frames = Math.min(BLOCK_FRAMES, end - from);
      yield {
        channels: await readArranged(arrangement, files.channels, (start, stop) => files.read(start, stop), from, from + frames),
        frames,
      };
    }
  } finally {
    await files.close();
  }
}
