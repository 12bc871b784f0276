import { open } from 'node:fs/promises';

const MOST_CHUNKS = 200;
/** Sizes that writers leave in the header when they do not know the length yet. */
const UNKNOWN_SIZES = new Set([0, 0xffffffff, 0x7fffffff, 0x7fffff00, 0xffffff00]);

/**
 * Seconds of sound that the header of a WAV (RIFF or RF64) promises; undefined when it promises nothing or is not
 * readable. Decoders go by the length of the file instead, and so do not notice that its end is missing.
 * Chunks: Multimedia Programming Interface and Data Specifications 1.0; RF64: EBU Tech 3306, ds64.
 */
export async function promisedWavSeconds(path: string): Promise<number | undefined> {
  const file = await open(path, 'r');
  try {
    const read = async (at: number, length: number): Promise<Buffer | undefined> => {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, at);
      return bytesRead === length ? buffer : undefined;
    };
    const start = await read(0, 12);
    const form = start?.toString('latin1', 0, 4);
    if ((form !== 'RIFF' && form !== 'RF64') || start!.toString('latin1', 8, 12) !== 'WAVE') return undefined;
    let bytesPerSecond = 0;
    let longSize: number | undefined;
    for (let at = 12, n = 0; n < MOST_CHUNKS; n++) {
      const header = await read(at, 8);
      if (!header) return undefined;
      const id = header.toString('latin1', 0, 4);
      const size = header.readUInt32LE(4);
      if (id === 'fmt ') bytesPerSecond = (await read(at + 8, 16))?.readUInt32LE(8) ?? 0;
      if (id === 'ds64') longSize = Number((await read(at + 8, 16))?.readBigUInt64LE(8) ?? 0);
      if (id === 'data') {
        const promised = form === 'RF64' && size === 0xffffffff ? longSize : UNKNOWN_SIZES.has(size) ? undefined : size;
        return promised && bytesPerSecond > 0 ? promised / bytesPerSecond : undefined;
      }
      at += 8 + size + (size % 2);
    }
    return undefined;
  } finally {
    await file.close();
  }
}
