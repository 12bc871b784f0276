import { open, type FileHandle } from 'node:fs/promises';
import { Packer, type KernelModule } from '@euphonos/dsp';
import { asMediaError, MediaError } from './errors.js';
import type { SoundBlock } from './sound-block.js';
import { wavHeader, WAV_HEADER_BYTES, type WavFormat } from './wav-header.js';

export type { WavFormat } from './wav-header.js';

const BUFFER_BYTES = 1 << 18;

/** Writes a WAV file (RF64 beyond 4 GiB) frame by frame; its header is complete when it is finished. */
export class WavEncoder {
  #file: Promise<FileHandle>;
  readonly #buffers = [Buffer.alloc(BUFFER_BYTES), Buffer.alloc(BUFFER_BYTES)];
  /** What is on its way to the disk, while the other buffer is filled. */
  #writing: Promise<unknown> = Promise.resolve();
  #slot = 0;
  #fill = 0;
  #frames = 0;
  #closed = false;
  readonly #packer: Packer | null;
  /** Bytes of a sample. */
  readonly #width: number;

  constructor(
    kernels: KernelModule,
    path: string,
    private readonly sampleRateHz: number,
    private readonly channels: number,
    private readonly format: WavFormat,
    /** Noise before rounding, where bits are lost (see `Packing`). */
    dither = true,
  ) {
    this.#packer = format === 'float32' ? null : new Packer(kernels, channels, { bits: format === 'pcm16' ? 16 : 24, dither });
    this.#width = this.#packer?.width ?? 4;
    this.#file = open(path, 'w');
    this.#file.catch(() => undefined);
    this.#put(Buffer.alloc(WAV_HEADER_BYTES));
  }

  /** Resolves when more can be taken; the block may then be used again. @throws {MediaError} `encode-failed` or `disk-full` */
  async write({ channels, frames }: SoundBlock): Promise<void> {
    const width = this.#width;
    const most = Math.floor(BUFFER_BYTES / (width * this.channels));
    for (let from = 0; from < frames;) {
      const room = Math.floor((BUFFER_BYTES - this.#fill) / (width * this.channels));
      if (room === 0) await this.#turn();
      const count = Math.min(frames - from, room || most);
      const buffer = this.#buffers[this.#slot]!;
      if (this.#packer) this.#packer.pack(channels, from, count, buffer, this.#fill);
      else
        for (let c = 0; c < this.channels; c++)
          for (let n = 0, at = this.#fill + 4 * c; n < count; n++, at += 4 * this.channels)
            buffer.writeFloatLE(channels[c]![from + n]!, at);
      this.#fill += count * width * this.channels;
      from += count;
    }
    this.#frames += frames;
  }

  #put(bytes: Buffer): void {
    bytes.copy(this.#buffers[this.#slot]!, this.#fill);
    this.#fill += bytes.length;
  }

  /** Sends the buffer off, when the one before has arrived. */
  async #turn(): Promise<void> {
    try {
      await this.#writing;
      const file = await this.#file;
      const bytes = this.#buffers[this.#slot]!.subarray(0, this.#fill);
      this.#writing = writeAll(file, bytes, null);
      this.#writing.catch(() => undefined);
    } catch (error) {
      this.abort();
      throw failure(error);
    }
    this.#slot ^= 1;
    this.#fill = 0;
  }

  /** Resolves when the file is complete. */
  async finish(): Promise<void> {
    const odd = (this.#frames * this.channels * this.#width) % 2;
    if (odd && this.#fill < BUFFER_BYTES) this.#put(Buffer.alloc(1));
    await this.#turn();
    try {
      await this.#writing;
      const file = await this.#file;
      await writeAll(
        file,
        wavHeader({ sampleRateHz: this.sampleRateHz, channels: this.channels, format: this.format, frames: this.#frames }),
        0,
      );
      await file.close();
      this.#closed = true;
    } catch (error) {
      this.abort();
      throw failure(error);
    }
  }

  abort(): void {
    if (this.#closed) return;
    this.#closed = true;
    void this.#writing
      .catch(() => undefined)
      .then(async () => (await this.#file).close())
      .catch(() => undefined);
  }
}

async function writeAll(file: FileHandle, bytes: Buffer, position: number | null): Promise<void> {
  for (let at = 0; at < bytes.length;)
    at += (await file.write(bytes, at, bytes.length - at, position === null ? null : position + at)).bytesWritten;
}

function failure(error: unknown): unknown {
  const known = asMediaError(error);
  return known === error && !(error instanceof MediaError)
    ? new MediaError('encode-failed', `The file could not be written: ${(error as Error).message}.`)
    : known;
}
