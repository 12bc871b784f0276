import { spawn, type ChildProcess } from 'node:child_process';
import { asMediaError, MediaError } from './errors.js';
import type { SoundBlock } from './decode.js';

export type WavFormat = 'pcm24' | 'float32';

/** Writes a WAV file (RF64 beyond 4 GiB) through ffmpeg, frame by frame. */
export class WavEncoder {
  readonly #child: ChildProcess;
  readonly #ended: Promise<number | null>;
  #complaints = '';
  #failure: Error | undefined;

  constructor(path: string, sampleRateHz: number, private readonly channels: number, format: WavFormat) {
    this.#child = spawn(
      'ffmpeg',
      [
        '-nostdin', '-v', 'error', '-y', '-f', 'f32le', '-ar', String(sampleRateHz), '-ac', String(channels), '-i', 'pipe:0',
        '-c:a', format === 'pcm24' ? 'pcm_s24le' : 'pcm_f32le', '-bitexact', '-rf64', 'auto', '-f', 'wav', `file:${path}`,
      ],
      { stdio: ['pipe', 'ignore', 'pipe'] },
    );
    this.#child.on('error', (error) => (this.#failure = error));
    this.#child.stdin!.on('error', (error) => (this.#failure ??= error));
    this.#child.stderr!.setEncoding('utf8').on('data', (text: string) => (this.#complaints += text));
    this.#ended = new Promise((resolve) => this.#child.on('close', resolve));
  }

  /** Resolves when more can be taken. @throws {MediaError} `encode-failed`, `disk-full` or `ffmpeg-missing` */
  async write({ channels, frames }: SoundBlock): Promise<void> {
    if (this.#failure) throw this.#error();
    const interleaved = this.channels === 1 ? channels[0]!.slice(0, frames) : new Float32Array(frames * this.channels);
    for (let c = 0; c < this.channels && this.channels > 1; c++) {
      const samples = channels[c]!;
      for (let n = 0, at = c; n < frames; n++, at += this.channels) interleaved[at] = samples[n]!;
    }
    const stdin = this.#child.stdin!;
    if (!stdin.write(Buffer.from(interleaved.buffer)))
      await new Promise<void>((resolve) => {
        stdin.once('drain', resolve);
        stdin.once('close', resolve);
        stdin.once('error', () => resolve());
      });
  }

  /** Resolves when the file is complete. */
  async finish(): Promise<void> {
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
    return new MediaError('encode-failed', `The file could not be written: ${this.#complaints.trim() || this.#failure?.message || 'ffmpeg ended early'}.`);
  }
}
