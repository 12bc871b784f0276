import { spawn, type ChildProcess } from 'node:child_process';
import { asMediaError, MediaError } from './errors.js';
import type { SoundBlock } from './decode.js';

export type WavFormat = 'pcm24' | 'float32';

/** Writes a WAV file (RF64 beyond 4 GiB) through ffmpeg, frame by frame. */
export class WavEncoder {
  readonly #child: ChildProcess;
  readonly #ended: Promise<number | null>;
  readonly #buffers = [new Float32Array(0), new Float32Array(0)];
  readonly #written = [Promise.resolve(), Promise.resolve()];
  #slot = 0;
  #complaints = '';
  #failure: Error | undefined;

  constructor(
    path: string,
    sampleRateHz: number,
    private readonly channels: number,
    format: WavFormat,
  ) {
    this.#child = spawn(
      'ffmpeg',
      [
        '-nostdin',
        '-v',
        'error',
        '-y',
        '-f',
        'f32le',
        '-ar',
        String(sampleRateHz),
        '-ac',
        String(channels),
        '-i',
        'pipe:0',
        '-c:a',
        format === 'pcm24' ? 'pcm_s24le' : 'pcm_f32le',
        '-bitexact',
        '-rf64',
        'auto',
        '-f',
        'wav',
        `file:${path}`,
      ],
      { stdio: ['pipe', 'ignore', 'pipe'] },
    );
    this.#child.on('error', (error) => (this.#failure = error));
    this.#child.stdin!.on('error', (error) => (this.#failure ??= error));
    this.#child.stderr!.setEncoding('utf8').on('data', (text: string) => (this.#complaints += text));
    this.#ended = new Promise((resolve) => this.#child.on('close', resolve));
  }

  /** Resolves when more can be taken; the block may then be used again. @throws {MediaError} `encode-failed`, `disk-full` or `ffmpeg-missing` */
  async write({ channels, frames }: SoundBlock): Promise<void> {
    // Two buffers by turns: one is on its way to ffmpeg while the other is filled.
    const slot = (this.#slot ^= 1);
    await this.#written[slot];
    if (this.#failure) throw this.#error();
    if (this.#buffers[slot]!.length < frames * this.channels) this.#buffers[slot] = new Float32Array(frames * this.channels);
    const interleaved = this.#buffers[slot]!.subarray(0, frames * this.channels);
    if (this.channels === 1) interleaved.set(channels[0]!.subarray(0, frames));
    for (let c = 0; c < this.channels && this.channels > 1; c++) {
      const samples = channels[c]!;
      for (let n = 0, at = c; n < frames; n++, at += this.channels) interleaved[at] = samples[n]!;
    }
    const bytes = Buffer.from(interleaved.buffer, interleaved.byteOffset, interleaved.byteLength);
    // Called when the bytes are in the pipe, and also when that failed; the failure is then told by the next write.
    this.#written[slot] = new Promise((resolve) => this.#child.stdin!.write(bytes, () => resolve()));
  }

  /** Resolves when the file is complete. */
  async finish(): Promise<void> {
    await Promise.all(this.#written);
    this.#child.stdin!.end();
    const exitCode = await this.#ended;
    if (exitCode !== 0 || this.#failure) throw this.#error();
  }

  abort(): void {
    this.#child.kill('SIGKILL');
  }

  #error(): unknown {
    if (/No space left/.test(this.#complaints)) return asMediaError(Object.assign(new Error(), { code: 'ENOSPC' }));
    if ((this.#failure as NodeJS.ErrnoException | undefined)?.code === 'ENOENT')
      return new MediaError('ffmpeg-missing', 'ffmpeg is not installed; it is a Debian package.');
    return new MediaError(
      'encode-failed',
      `The file could not be written: ${this.#complaints.trim() || this.#failure?.message || 'ffmpeg ended early'}.`,
    );
  }
}
