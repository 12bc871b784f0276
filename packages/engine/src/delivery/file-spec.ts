import { EngineError } from '../errors.js';

/** Formats that are written, in the order in which they are offered. */
export const fileFormats = ['wav', 'aiff', 'flac', 'mp3', 'm4a', 'opus', 'ogg'] as const;
export type FileFormat = (typeof fileFormats)[number];
export type BitDepth = 16 | 24 | '32f';

/** How a delivery is written. */
export interface FileSpec {
  readonly format: FileFormat;
  /** Of formats that keep samples. */
  readonly bits: BitDepth;
  /** Noise before rounding to 16 or 24 bits, where bits are lost (TPDF). */
  readonly dither: boolean;
  /** Of formats that code with loss, kilobits a second, all channels together. */
  readonly bitrateKbps: number;
  /** Variable about that rate, where the format knows both ways. */
  readonly variable: boolean;
  /** null: as the session has it. */
  readonly sampleRateHz: number | null;
  /** null: as many as the mix has. */
  readonly channels: 1 | 2 | null;
}

/** Rates at which libvorbis 1.3.7 holds a bit rate, and the least and most that it takes for one channel and for two, kbit/s (tried out). */
const VORBIS_KBPS: Readonly<Record<number, readonly [one: readonly [number, number], two: readonly [number, number]]>> = {
  8000: [
    [16, 32],
    [16, 80],
  ],
  16_000: [
    [16, 96],
    [24, 192],
  ],
  22_050: [
    [16, 80],
    [32, 160],
  ],
  32_000: [
    [32, 160],
    [48, 320],
  ],
  44_100: [
    [32, 224],
    [48, 320],
  ],
  48_000: [
    [32, 224],
    [48, 320],
  ],
};
const VORBIS_HZ = Object.keys(VORBIS_KBPS).map(Number);

interface FormatFacts {
  readonly title: string;
  readonly ending: string;
  readonly mimeType: string;
  /** Depths that it keeps; none: it codes with loss. */
  readonly bits: readonly BitDepth[];
  /** Least and most kilobits a second of one channel, and of two. */
  readonly bitrateKbps: readonly [number, number];
  readonly variable: boolean;
  /** Rates that it knows; null for all from 8 to 192 kHz. */
  readonly ratesHz: readonly number[] | null;
}

/** MPEG-1 and MPEG-2 layer III. */
const LAYER_3_HZ = [16_000, 22_050, 24_000, 32_000, 44_100, 48_000] as const;
/** ISO/IEC 14496-3, table 1.16, up to what encoders take. */
const AAC_HZ = [8000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000, 64_000, 88_200, 96_000] as const;

export const formatFacts: Readonly<Record<FileFormat, FormatFacts>> = {
  wav: { title: 'WAV', ending: 'wav', mimeType: 'audio/wav', bits: [16, 24, '32f'], bitrateKbps: [0, 0], variable: false, ratesHz: null },
  aiff: { title: 'AIFF', ending: 'aiff', mimeType: 'audio/aiff', bits: [16, 24], bitrateKbps: [0, 0], variable: false, ratesHz: null },
  flac: { title: 'FLAC', ending: 'flac', mimeType: 'audio/flac', bits: [16, 24], bitrateKbps: [0, 0], variable: false, ratesHz: null },
  mp3: { title: 'MP3', ending: 'mp3', mimeType: 'audio/mpeg', bits: [], bitrateKbps: [32, 320], variable: true, ratesHz: LAYER_3_HZ },
  m4a: { title: 'AAC in M4A', ending: 'm4a', mimeType: 'audio/mp4', bits: [], bitrateKbps: [32, 320], variable: false, ratesHz: AAC_HZ },
  opus: { title: 'Opus', ending: 'opus', mimeType: 'audio/ogg', bits: [], bitrateKbps: [16, 256], variable: true, ratesHz: [48_000] },
  ogg: { title: 'Ogg Vorbis', ending: 'ogg', mimeType: 'audio/ogg', bits: [], bitrateKbps: [48, 320], variable: false, ratesHz: VORBIS_HZ },
};

/** Layer III has steps (ISO/IEC 11172-3, 2.4.2.3); the nearest one is taken. Up to 24 kHz they end at 160 (13818-3). */
const LAYER_3_KBPS = [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320] as const;

export const PLAIN_FILE: FileSpec = {
  format: 'wav',
  bits: 24,
  dither: true,
  bitrateKbps: 192,
  variable: false,
  sampleRateHz: null,
  channels: null,
};
export const RATE_RANGE_HZ = [8000, 192_000] as const;

export const isLossy = ({ format }: Pick<FileSpec, 'format'>): boolean => formatFacts[format].bits.length === 0;

/** The rate that is written for a session's: as asked, else the session's, else the nearest above it that the format knows. */
export function rateOf({ format, sampleRateHz }: FileSpec, sessionHz: number): number {
  const wished = sampleRateHz ?? sessionHz;
  const { ratesHz } = formatFacts[format];
  return ratesHz === null || ratesHz.includes(wished) ? wished : (ratesHz.find((hz) => hz >= wished) ?? ratesHz[ratesHz.length - 1]!);
}

/** The depth that is kept: as asked, or the most that the format has; null where it codes with loss. */
export function bitsOf({ format, bits }: FileSpec): BitDepth | null {
  const known = formatFacts[format].bits;
  return known.length === 0 ? null : known.includes(bits) ? bits : known[known.length - 1]!;
}

/** The bit rate that is written for a rate and so many channels, kbit/s: what is asked for, as far as the format takes it. */
export function kbpsOf(spec: FileSpec, rateHz: number, channels: number): number {
  const wished = Math.round(spec.bitrateKbps);
  if (spec.format === 'ogg') {
    const [least, most] = VORBIS_KBPS[rateHz]?.[channels === 1 ? 0 : 1] ?? formatFacts.ogg.bitrateKbps;
    return Math.max(least, Math.min(most, wished));
  }
  if (spec.format !== 'mp3') return wished;
  const steps = LAYER_3_KBPS.filter((step) => rateHz > 24_000 || step <= 160);
  if (spec.variable) return Math.min(wished, steps[steps.length - 1]!);
  return steps.reduce((best, step) => (Math.abs(step - wished) < Math.abs(best - wished) ? step : best), steps[0]!);
}

/** "FLAC, 24 bits", "MP3, 192 kbit/s" … of a file with that rate and so many channels. */
export function fileWords(spec: FileSpec, rateHz: number, channels: number): string {
  const bits = bitsOf(spec);
  const { title } = formatFacts[spec.format];
  if (bits !== null) return `${title}, ${bits === '32f' ? '32-bit float' : `${bits} bits`}`;
  return `${title}, ${spec.variable && formatFacts[spec.format].variable ? 'about ' : ''}${kbpsOf(spec, rateHz, channels)} kbit/s`;
}

/** The format of a file's name; undefined for endings that are not written. */
export function formatOfName(name: string): FileFormat | undefined {
  const ending = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase();
  return fileFormats.find((format) => formatFacts[format].ending === ending || (format === 'aiff' && ending === 'aif'));
}

/** Reads a file specification from untrusted JSON; what is left out is as usual. @throws {EngineError} `target-file` with what is possible and what was given */
export function requireFileSpec(json: unknown): FileSpec {
  if (json === undefined || json === null) return PLAIN_FILE;
  const refuse = (message: string, given: unknown): never => {
    throw new EngineError('target-file', message, { given });
  };
  if (typeof json !== 'object' || Array.isArray(json)) return refuse('A file is described by an object with format, bits …', json);
  const given = { ...PLAIN_FILE, ...(json as Partial<Record<keyof FileSpec, unknown>>) };
  const { format, bits, dither, bitrateKbps, variable, sampleRateHz, channels } = given;
  if (!fileFormats.includes(format as FileFormat))
    return refuse(`The format is one of ${fileFormats.join(', ')}; ${JSON.stringify(format)} was given.`, format);
  const facts = formatFacts[format as FileFormat];
  if (bits !== 16 && bits !== 24 && bits !== '32f') return refuse(`Bits are 16, 24 or "32f"; ${JSON.stringify(bits)} was given.`, bits);
  if (facts.bits.length > 0 && !facts.bits.includes(bits))
    return refuse(`${facts.title} is written with ${facts.bits.join(' or ')} bits; ${bits} was given.`, bits);
  if (typeof dither !== 'boolean') return refuse(`Dither is true or false; ${JSON.stringify(dither)} was given.`, dither);
  if (typeof variable !== 'boolean') return refuse(`Variable is true or false; ${JSON.stringify(variable)} was given.`, variable);
  const [least, most] = facts.bitrateKbps;
  if (typeof bitrateKbps !== 'number' || !Number.isFinite(bitrateKbps) || (most > 0 && !(bitrateKbps >= least && bitrateKbps <= most)))
    return refuse(
      `The bit rate of ${facts.title} goes from ${least} to ${most} kbit/s; ${JSON.stringify(bitrateKbps)} was given.`,
      bitrateKbps,
    );
  const [lowest, highest] = RATE_RANGE_HZ;
  if (sampleRateHz !== null) {
    const whole = typeof sampleRateHz === 'number' && Number.isInteger(sampleRateHz) && sampleRateHz >= lowest && sampleRateHz <= highest;
    if (!whole) return refuse(`The rate goes from ${lowest} to ${highest} Hz; ${JSON.stringify(sampleRateHz)} was given.`, sampleRateHz);
    if (facts.ratesHz && !facts.ratesHz.includes(sampleRateHz))
      return refuse(`${facts.title} has rates of ${facts.ratesHz.join(', ')} Hz; ${sampleRateHz} was given.`, sampleRateHz);
  }
  if (channels !== null && channels !== 1 && channels !== 2)
    return refuse(`A file has 1 or 2 channels, or null for those of the mix; ${JSON.stringify(channels)} was given.`, channels);
  return { format: format as FileFormat, bits, dither, bitrateKbps, variable, sampleRateHz: sampleRateHz as number | null, channels };
}
