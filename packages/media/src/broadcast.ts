import { open } from 'node:fs/promises';

/** What a broadcast WAV says of itself (EBU Tech 3285 v2, 2.3), by the names under which ffmpeg writes it. The time reference is in frames. */
export type BroadcastTags = Readonly<Record<string, string>>;

const MOST_CHUNKS = 200;
/** Texts of the extension: where they begin, and how many bytes they have. */
const TEXTS = [
  ['description', 0, 256],
  ['originator', 256, 32],
  ['originator_reference', 288, 32],
  ['origination_date', 320, 10],
  ['origination_time', 330, 8],
] as const;
const TIME_REFERENCE_AT = 338;
/** Behind version, UMID, loudness and what is reserved. */
const CODING_HISTORY_AT = 602;
const MOST_BYTES = 1 << 16;

/** Up to the first zero, without what only fills up. */
const textOf = (bytes: Buffer): string =>
  bytes
    .toString('latin1')
    .replace(/\0[^]*$/, '')
    .trimEnd();

function tagsOf(chunk: Buffer): BroadcastTags {
  const texts = TEXTS.map(([key, at, bytes]) => [key, textOf(chunk.subarray(at, at + bytes))] as const);
  const all = [
    ...texts,
    ['time_reference', String(chunk.readBigUInt64LE(TIME_REFERENCE_AT))] as const,
    ['coding_history', textOf(chunk.subarray(CODING_HISTORY_AT))] as const,
  ];
  return Object.fromEntries(all.filter(([, value]) => value !== ''));
}

/** The broadcast extension of a WAV (RIFF or RF64) and its rate; null for files without. */
export async function readBroadcast(path: string): Promise<{ readonly tags: BroadcastTags; readonly sampleRateHz: number } | null> {
  const file = await open(path, 'r').catch(() => null);
  if (!file) return null;
  try {
    const read = async (at: number, length: number): Promise<Buffer | null> => {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, at);
      return bytesRead === length ? buffer : null;
    };
    if (!/^(RIFF|RF64)....WAVE$/s.test((await read(0, 12))?.toString('latin1') ?? '')) return null;
    let tags: BroadcastTags | null = null;
    let sampleRateHz = 0;
    for (let at = 12, n = 0; n < MOST_CHUNKS; n++) {
      const header = await read(at, 8);
      if (!header) break;
      const id = header.toString('latin1', 0, 4);
      const size = header.readUInt32LE(4);
      if (id === 'bext' && size >= TIME_REFERENCE_AT + 8) {
        const chunk = await read(at + 8, Math.min(size, MOST_BYTES));
        if (chunk) tags = tagsOf(chunk);
      }
      if (id === 'fmt ') sampleRateHz = (await read(at + 8, 16))?.readUInt32LE(4) ?? 0;
      if (id === 'data') break;
      at += 8 + size + (size % 2);
    }
    return tags && sampleRateHz > 0 ? { tags, sampleRateHz } : null;
  } finally {
    await file.close();
  }
}

/** The same for sound that begins `byFrames` later in the source, at another rate: only the time reference moves. */
export function movedTags(tags: BroadcastTags, byFrames: number, fromHz: number, toHz: number): BroadcastTags {
  const { time_reference: reference } = tags;
  if (reference === undefined) return tags;
  return { ...tags, time_reference: String(Math.max(0, Math.round(((Number(reference) + byFrames) * toHz) / fromHz))) };
}
