import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { inputOptions } from './probe.js';

/** What a broadcast WAV says of itself (EBU Tech 3285 v2, 2.3), by the names that ffmpeg has for it. The time reference is in frames. */
export type BroadcastTags = Readonly<Record<string, string>>;

const KEYS = [
  'description',
  'originator',
  'originator_reference',
  'origination_date',
  'origination_time',
  'time_reference',
  'umid',
] as const;
/** A file with one of these is a broadcast WAV; a description alone may be anything's. */
const TELLING = ['originator', 'originator_reference', 'time_reference'];
const run = promisify(execFile);

/** What a WAV carries in its broadcast extension; null for files without. */
export async function broadcastTags(path: string): Promise<BroadcastTags | null> {
  const args = ['-v', 'error', '-of', 'json', '-show_entries', 'format=format_name:format_tags', ...inputOptions(path)];
  try {
    const { stdout } = await run('ffprobe', args, { maxBuffer: 1 << 22 });
    const { format } = JSON.parse(stdout) as { format?: { format_name?: string; tags?: Record<string, string> } };
    const tags = format?.tags ?? {};
    if (format?.format_name !== 'wav' || !TELLING.some((key) => tags[key] !== undefined)) return null;
    return Object.fromEntries(KEYS.flatMap((key) => (tags[key] ? [[key, tags[key]]] : [])));
  } catch {
    // Whether it can be read at all is found out elsewhere.
    return null;
  }
}

/** The same for sound that begins `byFrames` later in the source, at another rate: only the time reference moves. */
export function movedTags(tags: BroadcastTags, byFrames: number, fromHz: number, toHz: number): BroadcastTags {
  const { time_reference: reference } = tags;
  if (reference === undefined) return tags;
  return { ...tags, time_reference: String(Math.max(0, Math.round(((Number(reference) + byFrames) * toHz) / fromHz))) };
}
