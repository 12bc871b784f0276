import { pipeline } from 'node:stream/promises';
import { MediaError } from './errors.js';
import type { SoundBlock } from './sound-block.js';
import { StreamingTool, ToolFailure } from './tools.js';

/** As blocks of that many channels: one is half of both, two are twice the one. */
async function* withChannels(source: AsyncIterable<SoundBlock>, from: number, to: number): AsyncGenerator<SoundBlock> {
  for await (const { channels, frames } of source) {
    if (from === to) yield { channels, frames };
    else if (to === 1) {
      const [left, right] = channels as [Float32Array, Float32Array];
      yield { channels: [left.subarray(0, frames).map((x, n) => 0.5 * (x + right[n]!))], frames };
    } else yield { channels: [channels[0]!, channels[0]!], frames };
  }
}

interface Shape {
  readonly sampleRateHz: number;
  readonly channels: number;
}

/**
 * Sound in another rate (ffmpeg's soxr, 28 bits) and other channels, as long as it was: frames are rounded to the nearest.
 * @throws {MediaError} `encode-failed`, `tool-limit`, `ffmpeg-missing` or `cancelled`
 */
export async function* converted(
  source: AsyncIterable<SoundBlock>,
  frames: number,
  from: Shape,
  to: Shape,
  signal?: AbortSignal,
): AsyncGenerator<SoundBlock> {
  const sound = withChannels(source, from.channels, to.channels);
  if (from.sampleRateHz === to.sampleRateHz) return yield* sound;
  const shape = (rateHz: number): string[] => ['-f', 'f32le', '-ar', String(rateHz), '-ac', String(to.channels)];
  const tool = new StreamingTool(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', ...shape(from.sampleRateHz), '-i', 'pipe:0'],
      ...['-af', `aresample=${to.sampleRateHz}:resampler=soxr:precision=28`, ...shape(to.sampleRateHz), 'pipe:1'],
    ],
    // What it is fed may take its time: a limiter reads all of it first.
    { signal, stalledMs: Infinity },
  );
  let broken: Error | undefined;
  const fed = pipeline(bytesOf(sound, to.channels), tool.input).catch((error: NodeJS.ErrnoException) => {
    // A child that ended early is told by its exit code.
    if (error.code !== 'EPIPE' && error.code !== 'ERR_STREAM_PREMATURE_CLOSE') broken = error;
    tool.kill();
  });
  let left = Math.round((frames * to.sampleRateHz) / from.sampleRateHz);
  let rest = Buffer.alloc(0);
  try {
    for await (const bytes of tool.output()) {
      const all = rest.length > 0 ? Buffer.concat([rest, bytes]) : bytes;
      const count = Math.min(left, Math.floor(all.length / (4 * to.channels)));
      rest = Buffer.from(all.subarray(4 * to.channels * Math.floor(all.length / (4 * to.channels))));
      if (count > 0) yield { channels: apart(all, count, to.channels), frames: count };
      left -= count;
    }
    await fed;
    const failure = broken ?? (await tool.failure());
    if (signal?.aborted) throw new MediaError('cancelled', 'Cancelled.');
    if (failure instanceof ToolFailure) throw new MediaError('encode-failed', `The rate could not be changed: ${failure.said}.`);
    if (failure) throw failure;
    if (left > 0) yield { channels: Array.from({ length: to.channels }, () => new Float32Array(left)), frames: left };
  } finally {
    tool.kill();
  }
}

/** Blocks as bytes, channel beside channel. */
async function* bytesOf(sound: AsyncIterable<SoundBlock>, channelCount: number): AsyncGenerator<Buffer> {
  for await (const { channels, frames } of sound) {
    const beside = new Float32Array(frames * channelCount);
    channels.forEach((samples, c) => {
      for (let n = 0; n < frames; n++) beside[n * channelCount + c] = samples[n]!;
    });
    yield Buffer.from(beside.buffer);
  }
}

function apart(bytes: Buffer, frames: number, channelCount: number): Float32Array[] {
  return Array.from({ length: channelCount }, (_, c) => {
    const samples = new Float32Array(frames);
    for (let n = 0; n < frames; n++) samples[n] = bytes.readFloatLE(4 * (n * channelCount + c));
    return samples;
  });
}
