import { readBroadcast } from './broadcast.js';
import { probeJson } from './tools.js';

/**
 * When a recording began, in seconds of the day, where its file states it: the time reference of a broadcast WAV (EBU Tech 3285), or the
 * timecode of a video (without drop frames, at the rate of its pictures). null otherwise.
 */
export async function statedStart(path: string): Promise<number | null> {
  return (await broadcastStart(path)) ?? (await timecodeStart(path));
}

async function broadcastStart(path: string): Promise<number | null> {
  const said = await readBroadcast(path);
  // A reference of nothing is what writers leave that know no time.
  const reference = Number(said?.tags['time_reference'] ?? 0);
  return said && reference > 0 ? reference / said.sampleRateHz : null;
}

async function timecodeStart(path: string): Promise<number | null> {
  const show = ['-show_entries', 'stream=codec_type,r_frame_rate:stream_tags=timecode:format_tags=timecode'];
  try {
    return secondsOfTimecode(await probeJson<Probed>(path, show));
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
