import { createReadStream } from 'node:fs';
import { mkdir, open, rm, stat, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { Inject, Injectable } from '@nestjs/common';
import { asMediaError, wavHeader } from '@euphonos/media';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';

/** Shape of the samples of a take: 32-bit floats, frame by frame. */
export interface TakeShape {
  readonly id: string;
  readonly sampleRateHz: number;
  readonly channels: number;
}

/** The samples of takes while they are recorded: a file each that only grows. */
@Injectable()
export class TakeFiles {
  /** One writer at a time for each. */
  readonly #busy = new Map<string, Promise<unknown>>();

  readonly #folder: string;

  constructor(@Inject(SERVER_CONFIG) { takesFolder }: ServerConfig) {
    this.#folder = takesFolder;
  }

  #path = (id: string): string => join(this.#folder, `${id}.f32`);

  /** How many whole frames are there. */
  async frames(take: TakeShape): Promise<number> {
    return (await this.state(take)).frames;
  }

  /** The same, and when something came last; null where nothing ever did. */
  async state({ id, channels }: TakeShape): Promise<{ readonly frames: number; readonly changedAt: Date | null }> {
    const found = await stat(this.#path(id)).catch(() => null);
    return { frames: found ? Math.floor(found.size / (4 * channels)) : 0, changedAt: found?.mtime ?? null };
  }

  /**
   * Appends frames that begin at `from`; of those that are there already nothing is written again.
   * @returns how many frames are there now; fewer than `from` when something is missing before: then nothing was written
   */
  append(take: TakeShape, from: number, bytes: Buffer): Promise<number> {
    const before = this.#busy.get(take.id) ?? Promise.resolve();
    const next = before.catch(() => undefined).then(() => this.#append(take, from, bytes));
    this.#busy.set(take.id, next);
    void next.finally(() => this.#busy.get(take.id) === next && this.#busy.delete(take.id)).catch(() => undefined);
    return next;
  }

  async #append(take: TakeShape, from: number, bytes: Buffer): Promise<number> {
    await mkdir(this.#folder, { recursive: true });
    const frameBytes = 4 * take.channels;
    const known = await this.frames(take);
    if (from > known) return known;
    const fresh = bytes.subarray(Math.min(bytes.length, (known - from) * frameBytes));
    if (fresh.length === 0) return known;
    const path = this.#path(take.id);
    const file = await open(path, 'a');
    try {
      // A kill in the middle of a frame leaves bytes that belong to none.
      await truncate(path, known * frameBytes);
      for (let at = 0; at < fresh.length;) at += (await file.write(fresh, at)).bytesWritten;
      await file.datasync();
    } catch (error) {
      await truncate(path, known * frameBytes).catch(() => undefined);
      throw asMediaError(error);
    } finally {
      await file.close();
    }
    return known + fresh.length / frameBytes;
  }

  /** The take as a WAV of 32-bit floats: sample by sample what was recorded. */
  wav({ id, sampleRateHz, channels }: TakeShape, frames: number): { readonly stream: Readable; readonly sizeBytes: number } {
    const header = wavHeader({ sampleRateHz, channels, format: 'float32', frames });
    const dataBytes = frames * channels * 4;
    const path = this.#path(id);
    const stream = Readable.from(
      (async function* () {
        yield header;
        yield* createReadStream(path, { end: dataBytes - 1 });
      })(),
    );
    return { stream, sizeBytes: header.length + dataBytes };
  }

  async remove(id: string): Promise<void> {
    await rm(this.#path(id), { force: true });
  }
}
