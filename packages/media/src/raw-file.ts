import { open, type FileHandle } from 'node:fs/promises';
import type { SoundBlock } from './sound-block.js';

/** What a Gatherer hands on, and is cut into here. */
export const BLOCK_FRAMES = 32768;

/** A stretch of blocks in a file. */
interface Piece {
  path: string;
  readonly frames: number[];
}

/** Planar float samples on disk, block after block, in one file or several: what a render keeps between its passes. */
export class RawWriter {
  #handle: FileHandle | undefined;
  #piece: Piece;
  readonly #pieces: Piece[];

  constructor(private readonly path: string) {
    this.#piece = { path, frames: [] };
    this.#pieces = [this.#piece];
  }

  /** Before anything is written: goes on behind a file that was cut off another. */
  follow(path: string, lengthFrames: number): void {
    const frames = Array.from({ length: Math.ceil(lengthFrames / BLOCK_FRAMES) }, (_, i) =>
      Math.min(BLOCK_FRAMES, lengthFrames - i * BLOCK_FRAMES),
    );
    this.#pieces.splice(-1, 0, { path, frames });
  }

  /** What was written is a file by itself, from where it is read after `keep` has put it there; the next block begins another one. */
  async cut(keep: (path: string) => Promise<string>): Promise<void> {
    await this.finish();
    this.#piece.path = await keep(this.path);
    this.#piece = { path: this.path, frames: [] };
    this.#pieces.push(this.#piece);
  }

  async write({ channels, frames }: SoundBlock): Promise<void> {
    this.#handle ??= await open(this.path, 'w');
    for (const samples of channels) {
      const bytes = Buffer.from(samples.buffer, samples.byteOffset, frames * 4);
      for (let at = 0; at < bytes.length;) at += (await this.#handle.write(bytes, at)).bytesWritten;
    }
    this.#piece.frames.push(frames);
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
    let from = 0;
    for (const piece of this.#pieces) {
      if (piece.frames.length > 0) yield* readPiece(piece, channelCount, wanted, from);
      from += piece.frames.reduce((sum, frames) => sum + frames, 0);
    }
  }
}

async function* readPiece(
  { path, frames: blocks }: Piece,
  channelCount: number,
  wanted: (from: number, frames: number) => boolean,
  startFrame: number,
): AsyncGenerator<SoundBlock & { readonly from: number }> {
  const handle = await open(path, 'r');
  try {
    let channels: Float32Array[] = [];
    let at = 0;
    for (const frames of blocks) {
      if ((channels[0]?.length ?? 0) < frames) channels = Array.from({ length: channelCount }, () => new Float32Array(frames));
      if (wanted(startFrame + at, frames)) {
        for (const [c, samples] of channels.entries())
          await handle.read(new Uint8Array(samples.buffer, 0, frames * 4), 0, frames * 4, 4 * (at * channelCount + c * frames));
        yield { channels, frames, from: startFrame + at };
      }
      at += frames;
    }
  } finally {
    await handle.close();
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
