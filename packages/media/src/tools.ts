import { spawn, type ChildProcess } from 'node:child_process';
import type { Readable, Writable } from 'node:stream';
import { asMediaError, MediaError } from './errors.js';
import { inputOptions } from './foreign-input.js';

export type Tool = 'ffmpeg' | 'ffprobe';

/** What a child process may use; whatever a file asks of it, the machine stays usable. */
export interface ToolLimits {
  /** Address space. H.264 of 7680 x 4320 and HEVC of 3840 x 2160 in 10 bits are shown small within the default. */
  readonly memoryMiB?: number;
  /** Time of the processor, all threads together. */
  readonly cpuSeconds?: number;
  /** So long it may say nothing, and give nothing, while it is waited for. */
  readonly stalledMs?: number;
  /** Of each file that it writes. */
  readonly fileMiB?: number;
}

export interface ToolOptions extends ToolLimits {
  readonly signal?: AbortSignal | undefined;
}

const MEMORY_MIB = 2048;
/** A day of eight channels through soxr takes about two hours. */
const CPU_SECONDS = 6 * 3600;
const FILE_MIB = 256 * 1024;
const PROBE: ToolLimits = { cpuSeconds: 30, stalledMs: 60_000, fileMiB: 0 };
const MOST_SAID_BYTES = 1 << 24;
const MOST_COMPLAINTS = 2000;
/** Putting the index of a long MP4 in front of it moves the whole file without a word. */
const STALLED_MS = 600_000;
/** What a shell exits with where there is no such program (POSIX, Shell Command Language 2.8.2). */
const NOT_FOUND = 127;

/** A program that ended with an error, and the last that it said. */
export class ToolFailure extends MediaError {
  constructor(readonly said: string) {
    super('decode-failed', `It could not be read: ${said}. Is it complete?`);
  }
}

/**
 * The limits are set by a shell that becomes the program (`ulimit`, POSIX; -v and -t in every shell of Debian): kept by the kernel,
 * whatever becomes of this process.
 */
function limited(tool: Tool, args: readonly string[], limits: ToolLimits): [file: string, args: string[]] {
  const { memoryMiB = MEMORY_MIB, cpuSeconds = CPU_SECONDS, fileMiB = FILE_MIB } = limits;
  // Sizes of files are counted in blocks of 512 bytes.
  const script = `ulimit -v ${memoryMiB * 1024}; ulimit -t ${cpuSeconds}; ulimit -f ${fileMiB * 2048}; exec "$0" "$@"`;
  return ['/bin/sh', ['-c', script, tool, ...args]];
}

/** How a program that streams has ended. */
export interface ToolEnd {
  readonly exitCode: number | null;
  readonly killedBy: NodeJS.Signals | null;
  /** The first that it said of what went wrong. */
  readonly said: string;
}

/** A program that streams. Whoever reads it waits for `ended` behind the last bytes, and ends it with `kill` in any case. */
export class StreamingTool {
  readonly ended: Promise<ToolEnd>;
  readonly #child: ChildProcess;
  #said = '';

  constructor(
    private readonly tool: Tool,
    args: readonly string[],
    private readonly options: ToolOptions = {},
  ) {
    const { signal, ...limits } = options;
    this.#child = spawn(...limited(tool, args, limits), { stdio: 'pipe', ...(signal && { signal }) });
    this.#child.on('error', () => undefined);
    this.input.on('error', () => undefined);
    this.#child.stderr!.setEncoding('utf8').on('data', (text: string) => {
      if (this.#said.length < MOST_COMPLAINTS) this.#said += text.slice(0, MOST_COMPLAINTS);
    });
    this.ended = new Promise((resolve) =>
      this.#child.on('close', (exitCode, killedBy) => resolve({ exitCode, killedBy, said: this.#said.trim() })),
    );
  }

  get input(): Writable {
    return this.#child.stdin!;
  }

  get said(): string {
    return this.#said;
  }

  /** What it gives. */
  async *output(): AsyncGenerator<Buffer> {
    const { stalledMs = STALLED_MS } = this.options;
    const wait = (): NodeJS.Timeout | undefined => (stalledMs < Infinity ? setTimeout(() => this.kill(), stalledMs) : undefined);
    let timer = wait();
    try {
      for await (const bytes of this.#child.stdout as Readable as AsyncIterable<Buffer>) {
        clearTimeout(timer);
        yield bytes;
        timer = wait();
      }
    } finally {
      clearTimeout(timer);
    }
  }

  /** Why it ended as it did; null when all is well. */
  async failure(): Promise<Error | null> {
    const { exitCode, killedBy, said } = await this.ended;
    return exitCode === 0 ? null : explained(this.tool, exitCode, killedBy, said);
  }

  kill(): void {
    this.#child.kill('SIGKILL');
  }
}

/**
 * Runs a program to its end. ffmpeg tells twice a second how far it is, so that it can be seen when it goes no further.
 * @returns what it printed
 * @throws {MediaError} `ffmpeg-missing`, `tool-limit`, `disk-full` or `cancelled`; {ToolFailure} for everything else
 */
export async function runTool(tool: Tool, args: readonly string[], options: ToolOptions = {}): Promise<string> {
  const running = new StreamingTool(tool, tool === 'ffmpeg' ? ['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...args] : args, options);
  running.input.end();
  const parts: Buffer[] = [];
  let bytes = 0;
  try {
    for await (const part of running.output()) {
      if ((bytes += part.length) > MOST_SAID_BYTES) running.kill();
      else parts.push(part);
    }
    const failure = await running.failure();
    if (options.signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
    if (failure) throw failure;
    return Buffer.concat(parts).toString('utf8');
  } finally {
    running.kill();
  }
}

/** Of the ffmpeg that is installed; null where there is none. */
export const ffmpegVersion = (): Promise<string | null> =>
  runTool('ffprobe', ['-version'], PROBE).then(
    (said) => /version (\S+)/.exec(said)?.[1] ?? null,
    () => null,
  );

/** Why a program ended as it did. */
function explained(tool: Tool, exitCode: number | null, signal: NodeJS.Signals | null, stderr: string): Error {
  if (exitCode === NOT_FOUND) return new MediaError('ffmpeg-missing', `${tool} is not installed; it comes with the Debian package ffmpeg.`);
  // The list itself says nothing to whoever reads this.
  const said = (stderr.trim().split('\n')[0] ?? '').replace(/not on whitelist '.*/, 'is none that is decoded here');
  if (/no space left|disk quota/i.test(stderr)) return asMediaError(Object.assign(new Error(said), { code: 'ENOSPC' })) as Error;
  if (signal !== null || /cannot allocate memory/i.test(stderr))
    return new MediaError(
      'tool-limit',
      'The file asks for more time or memory than any recording needs: it was given up. It may be damaged; convert it to WAV or FLAC elsewhere and bring that in.',
    );
  return new ToolFailure(said);
}

/**
 * What ffprobe says of a file, as JSON.
 * @throws as `runTool`
 */
export async function probeJson<T>(path: string, show: readonly string[]): Promise<T> {
  return JSON.parse(await runTool('ffprobe', ['-v', 'error', '-of', 'json', ...show, ...inputOptions(path)], PROBE)) as T;
}
