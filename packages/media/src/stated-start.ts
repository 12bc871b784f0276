import { execFile } from 'node:child_process';
import { open } from 'node:fs/promises';
import { promisify } from 'node:util';
import { inputOptions } from './probe.js';

const MOST_CHUNKS = 200;
/** Of the time reference in a `bext` chunk: behind description, originator, its reference, date and time (EBU Tech 3285 v2, 2.3). */
const TIME_REFERENCE_AT = 256 + 32 + 32 + 10 + 8;
const run = promisify(execFile);

/**
 * When a recording began, in seconds of the day, where its file states it: the time reference of a broadcast WAV (EBU Tech 3285), or the
 * timecode of a video (without drop frames, at the rate of its pictures). null otherwise.
 */
export async function statedStart(path: string): Promise<number | null> {
  return (await broadcastStart(path)) ?? (await timecodeStart(path));
}

async function broadcastStart(path: string): Promise<number | null> {
  const file = await open(path, 'r').catch(() => null);
  if (!file) return null;
  try {
    const read = async (at: number, length: number): Promise<Buffer | null> => {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, at);
      return bytesRead === length ? buffer : null;
    };
    const start = await read(0, 12);
    if (!/^(RIFF|RF64)....WAVE$/s.test(start?.toString('latin1') ?? '')) return null;
    let reference: number | null = null;
    let sampleRateHz = 0;
    for (let at = 12, n = 0; n < MOST_CHUNKS; n++) {
      const header = await read(at, 8);
      if (!header) break;
      const id = header.toString('latin1', 0, 4);
      const size = header.readUInt32LE(4);
      if (id === 'bext' && size >= TIME_REFERENCE_AT + 8)
        reference = Number((await read(at + 8 + TIME_REFERENCE_AT, 8))?.readBigUInt64LE(0) ?? 0);
      if (id === 'fmt ') sampleRateHz = (await read(at + 8, 16))?.readUInt32LE(4) ?? 0;
      if (id === 'data') break;
      at += 8 + size + (size % 2);
    }
    // A reference of nothing is what writers leave that know no time.
    return reference && sampleRateHz > 0 ? reference / sampleRateHz : null;
  } finally {
    await file.close();
  }
}

async function timecodeStart(path: string): Promise<number | null> {
  const args = ['-v', 'error', '-of', 'json', '-show_entries', 'stream=codec_type,r_frame_rate:stream_tags=timecode:format_tags=timecode'];
  try {
    const { stdout } = await run('ffprobe', [...args, ...inputOptions(path)], { maxBuffer: 1 << 22 });
    return secondsOfTimecode(JSON.parse(stdout) as Probed);
  } catch {
    // Whether it can be read at all is found out elsewhere.
    return null;
  }
}

interface Probed {
  readonly streams?: readonly {
    readonly codec_type?: string;
    readonly r_frame_rate?: string;
    readonly tags?: { readonly timecode?: string };
  }[];
  readonly format?: { readonly tags?: { readonly timecode?: string } };
}

/** Hours, minutes, seconds and pictures (SMPTE ST 12-1), pictures counted at the rate of the video. */
export function secondsOfTimecode({ streams = [], format }: Probed): number | null {
  const code = format?.tags?.timecode ?? streams.find(({ tags }) => tags?.timecode)?.tags?.timecode;
  const match = /^(\d\d):(\d\d):(\d\d)[:;.](\d\d)$/.exec(code ?? '');
  if (!match) return null;
  const [hours, minutes, seconds, pictures] = match.slice(1).map(Number) as [number, number, number, number];
  const [above, below] = (streams.find(({ codec_type }) => codec_type === 'video')?.r_frame_rate ?? '').split('/').map(Number);
  const rate = above && below ? above / below : 0;
  return hours * 3600 + minutes * 60 + seconds + (rate > 0 ? pictures / rate : 0);
}
