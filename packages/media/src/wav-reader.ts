import { open, type FileHandle } from 'node:fs/promises';
import type { SoundBlock } from './sound-block.js';

const MOST_CHUNKS = 200;
/** Sizes that writers leave in the header when they do not know the length yet. */
const UNKNOWN_SIZES = new Set([0, 0xffffffff, 0x7fffffff, 0x7fffff00, 0xffffff00]);
const BLOCK_FRAMES = 16_384;

/** A plain WAV: where its samples lie and how they are stored. */
export interface WavPlace {
  readonly codec: 'pcm_s16le' | 'pcm_s24le' | 'pcm_s32le' | 'pcm_f32le';
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly dataAt: number;
  /** Of the samples that the header promises; null where it promises nothing. */
  readonly dataBytes: number | null;
}

const CODECS: Readonly<Record<string, WavPlace['codec']>> = {
  '1/16': 'pcm_s16le',
  '1/24': 'pcm_s24le',
  '1/32': 'pcm_s32le',
  '3/32': 'pcm_f32le',
};
const BYTES = { pcm_s16le: 2, pcm_s24le: 3, pcm_s32le: 4, pcm_f32le: 4 } as const;

/**
 * What the header of a file says, if it is a WAV (RIFF or RF64) of one or two channels whose samples can be read as they lie there;
 * null for everything else, which is left to the decoder. Chunks: Multimedia Programming Interface and Data Specifications 1.0;
 * RF64: EBU Tech 3306.
 */
export async function plainWav(path: string): Promise<WavPlace | null> {
  const file = await open(path, 'r').catch(() => null);
  if (!file) return null;
  try {
    return await placeOf(file);
  } finally {
    await file.close();
  }
}

async function placeOf(file: FileHandle): Promise<WavPlace | null> {
  const read = async (at: number, length: number): Promise<Buffer | null> => {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, at);
    return bytesRead === length ? buffer : null;
  };
  const start = await read(0, 12);
  const form = start?.toString('latin1', 0, 4);
  if ((form !== 'RIFF' && form !== 'RF64') || start!.toString('latin1', 8, 12) !== 'WAVE') return null;
  let shape: Pick<WavPlace, 'codec' | 'sampleRateHz' | 'channels'> | null = null;
  let longSize: number | null = null;
  for (let at = 12, n = 0; n < MOST_CHUNKS; n++) {
    const header = await read(at, 8);
    if (!header) return null;
    const id = header.toString('latin1', 0, 4);
    const size = header.readUInt32LE(4);
    if (id === 'fmt ') shape = shapeOf(await read(at + 8, Math.min(size, 40)));
    if (id === 'ds64') longSize = Number((await read(at + 8, 16))?.readBigUInt64LE(8) ?? 0);
    if (id === 'data') {
      const dataBytes = form === 'RF64' && size === 0xffffffff ? longSize : UNKNOWN_SIZES.has(size) ? null : size;
      return shape && { ...shape, dataAt: at + 8, dataBytes };
    }
    at += 8 + size + (size % 2);
  }
  return null;
}

function shapeOf(fmt: Buffer | null): Pick<WavPlace, 'codec' | 'sampleRateHz' | 'channels'> | null {
  if (!fmt || fmt.length < 16) return null;
  const extensible = fmt.readUInt16LE(0) === 0xfffe;
  if (extensible && fmt.length < 40) return null;
  const channels = fmt.readUInt16LE(2);
  const bits = fmt.readUInt16LE(14);
  // Fewer valid bits than stored ones, or a frame of an odd size: not as they lie there.
  if (extensible && fmt.readUInt16LE(18) !== bits) return null;
  const codec = CODECS[`${extensible ? fmt.readUInt16LE(24) : fmt.readUInt16LE(0)}/${bits}`];
  if (!codec || (channels !== 1 && channels !== 2) || fmt.readUInt16LE(12) !== (channels * bits) / 8) return null;
  return { codec, sampleRateHz: fmt.readUInt32LE(4), channels };
}

/** Seconds that the header promises; where it promises nothing, what the file holds. */
export const plainWavSeconds = ({ channels, codec, sampleRateHz, dataAt, dataBytes }: WavPlace, fileBytes: number): number =>
  (dataBytes ?? Math.max(0, fileBytes - dataAt)) / (channels * BYTES[codec] * sampleRateHz);

/** The samples of a plain WAV, all of its channels, up to where they end or the file does. The block is used again. */
export async function* readPlainWav(path: string, place: WavPlace, signal?: AbortSignal): AsyncGenerator<SoundBlock> {
  const { channels, codec, dataAt, dataBytes } = place;
  const frameBytes = channels * BYTES[codec];
  const file = await open(path, 'r');
  try {
    // In a buffer of its own, so that whole words lie at whole places.
    const bytes = Buffer.from(new ArrayBuffer(BLOCK_FRAMES * frameBytes));
    const block = Array.from({ length: channels }, () => new Float32Array(BLOCK_FRAMES));
    const end = dataBytes === null ? Infinity : dataAt + dataBytes;
    for (let at = dataAt; at < end;) {
      signal?.throwIfAborted();
      let filled = 0;
      const wanted = Math.min(bytes.length, end - at);
      while (filled < wanted) {
        const { bytesRead } = await file.read(bytes, filled, wanted - filled, at + filled);
        if (bytesRead === 0) break;
        filled += bytesRead;
      }
      const frames = Math.floor(filled / frameBytes);
      if (frames === 0) return;
      for (let c = 0; c < channels; c++) unpack(bytes, codec, c * BYTES[codec], frameBytes, block[c]!, frames);
      yield { channels: block, frames };
      at += frames * frameBytes;
    }
  } finally {
    await file.close();
  }
}

/** Whole numbers to fractions of full scale, as a decoder does: by the power of two. */
function unpack(bytes: Buffer, codec: WavPlace['codec'], from: number, step: number, into: Float32Array, frames: number): void {
  if (codec === 'pcm_s16le') {
    const words = new DataView(bytes.buffer, bytes.byteOffset);
    for (let n = 0, at = from; n < frames; n++, at += step) into[n] = words.getInt16(at, true) / 32_768;
  } else if (codec === 'pcm_s24le')
    for (let n = 0, at = from; n < frames; n++, at += step)
      into[n] = (((bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16)) << 8) >> 8) / 8_388_608;
  else if (codec === 'pcm_s32le') for (let n = 0, at = from; n < frames; n++, at += step) into[n] = bytes.readInt32LE(at) / 2_147_483_648;
  else for (let n = 0, at = from; n < frames; n++, at += step) into[n] = bytes.readFloatLE(at);
}
