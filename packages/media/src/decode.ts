import { stat } from 'node:fs/promises';
import { MediaError } from './errors.js';
import { inputOptions } from './foreign-input.js';
import type { SoundFacts } from './probe.js';
import type { SoundBlock } from './sound-block.js';
import { StreamingTool, ToolFailure } from './tools.js';
import { plainWav, plainWavSeconds, readPlainWav } from './wav-reader.js';

export interface DecodeOptions {
  /** Converts to this rate; left out, the file's own. */
  readonly sampleRateHz?: number;
  /** Makes it so many parts per million longer: for a clock that ran slow. Left out, or 0: as it is. */
  readonly driftPpm?: number;
  /** Which channels, counted from 0; left out, all of them. */
  readonly channels?: readonly number[];
  readonly signal?: AbortSignal | undefined;
}

/** What was noticed while decoding. */
export interface DecodeReport {
  frames: number;
  /** NaN and infinite samples, replaced by silence. */
  brokenSamples: number;
  /** The decoder's complaints, the first few lines. */
  complaints: string;
}

const SOXR = 'resampler=soxr:precision=28';
const MOST_HOURS = 24;
/** A decoder that gives nothing for so long gives nothing more. */
const STALLED_MS = 60_000;
/** Rates are whole numbers to ffmpeg: a thousand times as high, one of them is 0.02 ppm. */
const FINE = 1000;

function filters(fileRateHz: number, { sampleRateHz = fileRateHz, driftPpm = 0 }: DecodeOptions): string[] {
  const rate = sampleRateHz === fileRateHz ? [] : [`aresample=${sampleRateHz}:${SOXR}`];
  const fine = sampleRateHz * FINE;
  const drift =
    driftPpm === 0 ? [] : [`asetrate=${fine}`, `aresample=${Math.round(fine * (1 + driftPpm * 1e-6))}:${SOXR}`, `asetrate=${sampleRateHz}`];
  return rate.length + drift.length === 0 ? [] : ['-af', [...rate, ...drift].join(',')];
}

/**
 * Streams the samples of a file's first sound stream: of a plain WAV as they lie there, of everything else decoded by ffmpeg as a
 * child process. `report` is filled as it goes and complete at the end. Leaving the loop early ends the child.
 * @throws {MediaError} `channel-missing`, `decode-failed`, `too-long` (24 h), `tool-limit`, `ffmpeg-missing` or `cancelled`
 */
export async function* decodeSound(
  path: string,
  facts: SoundFacts,
  options: DecodeOptions,
  report: DecodeReport,
): AsyncGenerator<SoundBlock> {
  const chosen = options.channels ?? Array.from({ length: facts.channels }, (_, c) => c);
  const missing = chosen.find((channel) => channel >= facts.channels);
  if (missing !== undefined)
    throw new MediaError('channel-missing', `Channel ${missing + 1} was asked for; the file has ${facts.channels}.`);
  const drifts = (options.driftPpm ?? 0) !== 0;
  const same = !drifts && (!options.sampleRateHz || options.sampleRateHz === facts.sampleRateHz);
  const wav = facts.format === 'wav' && same ? await plainWav(path) : null;
  if (wav) {
    // What lies there is known before it is read.
    const { size } = await stat(path);
    const seconds = plainWavSeconds({ ...wav, dataBytes: Math.min(wav.dataBytes ?? Infinity, size - wav.dataAt) }, size);
    requireLength(seconds * facts.sampleRateHz, facts.sampleRateHz);
    try {
      for await (const block of readPlainWav(path, wav, options.signal)) yield checked(block, chosen, report, wav.codec === 'pcm_f32le');
    } catch (error) {
      if (options.signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
      throw error;
    }
    if (report.frames === 0) throw nothingDecoded('');
    return;
  }
  const resampling = filters(facts.sampleRateHz, options);
  const tool = new StreamingTool(
    'ffmpeg',
    ['-nostdin', '-v', 'error', ...inputOptions(path), '-map', '0:a:0', '-vn', ...resampling, '-f', 'f32le', '-c:a', 'pcm_f32le', 'pipe:1'],
    { signal: options.signal, stalledMs: STALLED_MS },
  );
  tool.input.end();
  try {
    const split = new Deinterleaver(facts.channels, chosen, report);
    for await (const bytes of tool.output()) {
      const block = split.take(bytes);
      requireLength(report.frames, options.sampleRateHz ?? facts.sampleRateHz);
      if (block.frames > 0) yield block;
    }
    const failure = await tool.failure();
    if (options.signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
    report.complaints = tool.said || (failure?.message ?? '');
    if (report.frames > 0) return;
    if (failure && !(failure instanceof ToolFailure)) throw failure;
    throw nothingDecoded(failure instanceof ToolFailure ? ` (${failure.said})` : '');
  } finally {
    tool.kill();
  }
}

/** What is small in a file may be endless sound. @throws {MediaError} `too-long` */
export function requireLength(frames: number, rateHz: number): void {
  if (frames <= (MOST_HOURS * 3600 + 60) * rateHz) return;
  throw new MediaError(
    'too-long',
    `The file holds more than ${MOST_HOURS} hours of sound; up to ${MOST_HOURS} are read. Cut it into parts.`,
  );
}

const nothingDecoded = (why: string): MediaError =>
  new MediaError('decode-failed', `Nothing could be decoded of the file${why}. Is it complete?`);

/** The chosen channels of a block; of floats, what is no number is silenced and counted. */
function checked({ channels, frames }: SoundBlock, chosen: readonly number[], report: DecodeReport, floats: boolean): SoundBlock {
  for (const c of floats ? new Set(chosen) : []) {
    const samples = channels[c]!;
    for (let n = 0; n < frames; n++) {
      const x = samples[n]!;
      if (x - x === 0) continue;
      samples[n] = 0;
      report.brokenSamples++;
    }
  }
  report.frames += frames;
  return { channels: chosen.map((c) => channels[c]!), frames };
}

/** Interleaved bytes in, planar frames out; a frame split between two reads is kept for the next. */
class Deinterleaver {
  #rest = Buffer.alloc(0);
  #channels: Float32Array[] = [];

  constructor(
    private readonly width: number,
    private readonly chosen: readonly number[],
    private readonly report: DecodeReport,
  ) {}

  take(bytes: Buffer): SoundBlock {
    const data = this.#rest.length > 0 ? Buffer.concat([this.#rest, bytes]) : bytes;
    const frameBytes = this.width * 4;
    const frames = Math.floor(data.length / frameBytes);
    this.#rest = Buffer.from(data.subarray(frames * frameBytes));
    const aligned = data.byteOffset % 4 === 0 ? data : Buffer.from(data);
    const samples = new Float32Array(aligned.buffer, aligned.byteOffset, frames * this.width);
    if ((this.#channels[0]?.length ?? 0) < frames) this.#channels = this.chosen.map(() => new Float32Array(frames));
    for (let i = 0; i < this.chosen.length; i++) {
      const target = this.#channels[i]!;
      for (let n = 0, at = this.chosen[i]!; n < frames; n++, at += this.width) {
        const x = samples[at]!;
        // x - x is 0 for every finite number and NaN for NaN and the infinities.
        if (x - x === 0) target[n] = x;
        else {
          target[n] = 0;
          this.report.brokenSamples++;
        }
      }
    }
    this.report.frames += frames;
    return { channels: this.#channels, frames };
  }
}

export const newReport = (): DecodeReport => ({ frames: 0, brokenSamples: 0, complaints: '' });

/**
 * What a user should know of how a file was read, in words: it ended early, or samples were broken.
 * Formats without an exact length in their header are given 10 % of leeway.
 */
export function readingNotes(facts: SoundFacts, report: DecodeReport, sampleRateHz: number): string[] {
  const notes: string[] = [];
  const seconds = report.frames / sampleRateHz;
  const exact = /wav|w64|aiff|flac|mov|matroska/.test(facts.format);
  const stated = facts.statedSeconds;
  if (stated !== undefined && stated - seconds > Math.max(0.1, stated * (exact ? 0.002 : 0.1)))
    notes.push(`The file is truncated: its header promises ${stated.toFixed(1)} s, ${seconds.toFixed(1)} s are there and were kept.`);
  else if (report.complaints.trim() !== '') notes.push('Parts of the file are damaged; what could be decoded was kept.');
  if (report.brokenSamples > 0)
    notes.push(`${report.brokenSamples} samples were not numbers (NaN or infinite); they were replaced by silence.`);
  return notes;
}
