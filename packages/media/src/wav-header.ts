/** Samples as they are stored: whole numbers of 16 or 24 bits, or floats. */
export type WavFormat = 'pcm16' | 'pcm24' | 'float32';

export interface WavShape {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly format: WavFormat;
  readonly frames: number;
}

/** RIFF, room for ds64, fmt (extensible), fact, the head of data. */
export const WAV_HEADER_BYTES = 12 + 36 + 48 + 12 + 8;
const UINT32 = 0xffffffff;
/** The rest of the identifier of a format in WAVEFORMATEXTENSIBLE, after its first two bytes. */
const GUID_TAIL = Buffer.from('000000001000800000aa00389b71', 'hex');
const FORMAT = { pcm16: { tag: 1, bits: 16 }, pcm24: { tag: 1, bits: 24 }, float32: { tag: 3, bits: 32 } } as const;

/**
 * The header of a WAV file, WAV_HEADER_BYTES long. Beyond 4 GiB it is an RF64 (EBU Tech 3306): sizes stand in a ds64 chunk, for
 * which a JUNK chunk keeps the room before that. Chunks: Multimedia Programming Interface and Data Specifications 1.0;
 * WAVEFORMATEXTENSIBLE as for every sound of more than 16 bits.
 */
export function wavHeader({ sampleRateHz, channels, format, frames }: WavShape): Buffer {
  const { tag, bits } = FORMAT[format];
  const frameBytes = (channels * bits) / 8;
  const dataBytes = frames * frameBytes;
  const riffBytes = WAV_HEADER_BYTES - 8 + dataBytes + (dataBytes % 2);
  const long = riffBytes > UINT32;
  const header = Buffer.alloc(WAV_HEADER_BYTES);
  let at = 0;
  const text = (word: string): void => void (at += header.write(word, at, 'latin1'));
  const short = (value: number): void => void (at = header.writeUInt16LE(value, at));
  const int = (value: number): void => void (at = header.writeUInt32LE(Math.min(value, UINT32), at));
  const wide = (value: number): void => void (at = header.writeBigUInt64LE(BigInt(value), at));
  text(long ? 'RF64' : 'RIFF');
  int(long ? UINT32 : riffBytes);
  text('WAVE');
  text(long ? 'ds64' : 'JUNK');
  int(28);
  if (long) {
    wide(riffBytes);
    wide(dataBytes);
    wide(frames);
    int(0);
  } else at += 28;
  text('fmt ');
  int(40);
  short(0xfffe);
  short(channels);
  int(sampleRateHz);
  int(sampleRateHz * frameBytes);
  short(frameBytes);
  short(bits);
  short(22);
  short(bits);
  int(channels === 1 ? 4 : channels === 2 ? 3 : 0);
  short(tag);
  at += GUID_TAIL.copy(header, at);
  text('fact');
  int(4);
  int(frames);
  text('data');
  int(long ? UINT32 : dataBytes);
  return header;
}
