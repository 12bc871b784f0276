import { open, type FileHandle } from 'node:fs/promises';
import type { SoundBlock } from './sound-block.js';

const BLOCK_FRAMES = 32768;

/** Planar float samples on disk, block after block: what a render keeps between its passes. */
export class RawWriter {
  #handle: FileHandle | undefined;
  #frames: number[] = [];

  constructor(private readonly path: string) {}

  async write({ channels, frames }: SoundBlock): Promise<void> {
    this.#handle ??= await open(this.path, 'w');
    for (const samples of channels) {
      const bytes = Buffer.from(samples.buffer, samples.byteOffset, frames * 4);
      for (let at = 0; at < bytes.length;) at += (await this.#handle.write(bytes, at)).bytesWritten;
    }
    this.#frames.push(frames);
  }

  /** Nothing more comes; asked again it does nothing. */
  async finish(): Promise<void> {
    const handle = this.#handle;
    this.#handle = undefined;
    await handle?.close();
  }

  /** Reads everything again, from the start; or only the blocks that are wanted. The block is used again. */
  async *read(
    channelCount: number,
    wanted: (from: number, frames: number) => boolean = () => true,
  ): AsyncGenerator<SoundBlock & { readonly from: number }> {
    const handle = await open(this.path, 'r');
    try {
      let channels: Float32Array[] = [];
      let from = 0;
      for (const frames of this.#frames) {
        if ((channels[0]?.length ?? 0) < frames) channels = Array.from({ length: channelCount }, () => new Float32Array(frames));
        if (wanted(from, frames)) {
          for (const [c, samples] of channels.entries())
            await handle.read(new Uint8Array(samples.buffer, 0, frames * 4), 0, frames * 4, 4 * (from * channelCount + c * frames));
          yield { channels, frames, from };
        }
        from += frames;
      }
    } finally {
      await handle.close();
    }
  }
}

/** Reads frames [startFrame, endFrame) of raw float files, one file a channel; fewer where the files end before. */
export async function* readChannelFiles(paths: readonly string[], startFrame: number, endFrame: number): AsyncGenerator<SoundBlock> {
  const handles = await Promise.all(paths.map((path) => open(path, 'r')));
  try {
    const channels = paths.map(() => new Float32Array(BLOCK_FRAMES));
    for (let from = startFrame; from < endFrame; from += BLOCK_FRAMES) {
      let frames = Math.min(BLOCK_FRAMES, endFrame - from);
      for (const [c, handle] of handles.entries()) {
        const { bytesRead } = await handle.read(new Uint8Array(channels[c]!.buffer, 0, frames * 4), 0, frames * 4, from * 4);
        frames = Math.min(frames, Math.floor(bytesRead / 4));
      }
      if (frames === 0) return;
      yield { channels, frames };
    }
  } finally {
    await Promise.all(handles.map((handle) => handle.close()));
  }
}
