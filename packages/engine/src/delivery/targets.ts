import { EngineError } from '../errors.js';
import { NO_EDGES, requireEdge, type Edges } from './edges.js';
import { requireNamePattern } from './file-name.js';
import { PLAIN_FILE, requireFileSpec, type FileSpec } from './file-spec.js';

/** What a delivery must meet. null: not asked for. */
export interface DeliveryTarget extends Edges {
  readonly name: string;
  /** Loudness that the gain aims at. */
  readonly integratedLufs: number | null;
  /** Accepted distance from it, either way. */
  readonly toleranceLu: number;
  /** Window of the RMS level, dBFS. Without a loudness, the gain aims at its middle. */
  readonly rmsDbfs: readonly [low: number, high: number] | null;
  readonly ceilingDbtp: number;
  /** Highest sample accepted. */
  readonly samplePeakDbfs: number | null;
  /** Widest loudness range accepted. */
  readonly rangeLu: number | null;
  /** Highest noise floor accepted. */
  readonly noiseFloorDbfs: number | null;
  /** How the file is written. */
  readonly file: FileSpec;
  /** How files are named (`fileNameOf`). */
  readonly namePattern: string | null;
}

const NOTHING_ELSE = { rmsDbfs: null, samplePeakDbfs: null, rangeLu: null, file: PLAIN_FILE, namePattern: null, ...NO_EDGES } as const;

/** Presets; sources beside each. All but the broadcast ones are common practice without a published source. */
export const targets: readonly DeliveryTarget[] = [
  // AES recommendations for streams, and common practice.
  { ...NOTHING_ELSE, name: 'Podcast, stereo', integratedLufs: -16, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  { ...NOTHING_ELSE, name: 'Podcast, mono', integratedLufs: -19, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  // Common practice, no source.
  { ...NOTHING_ELSE, name: 'Online video', integratedLufs: -14, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  // EBU R 128.
  { ...NOTHING_ELSE, name: 'European broadcast', integratedLufs: -23, toleranceLu: 0.5, ceilingDbtp: -1, noiseFloorDbfs: null },
  // ATSC A/85.
  { ...NOTHING_ELSE, name: 'North-American broadcast', integratedLufs: -24, toleranceLu: 2, ceilingDbtp: -2, noiseFloorDbfs: null },
  // Common practice, no source: a window of the RMS level, sample peaks, a floor, and 44.1 kHz at 192 kbit/s or more.
  {
    ...NOTHING_ELSE,
    name: 'Long-form narration',
    integratedLufs: null,
    toleranceLu: 1,
    rmsDbfs: [-23, -18],
    ceilingDbtp: -3,
    samplePeakDbfs: -3,
    noiseFloorDbfs: -60,
    file: { ...PLAIN_FILE, format: 'mp3', bitrateKbps: 192, sampleRateHz: 44_100, channels: 1 },
  },
];

/** What no peak may pass, dBTP: the ceiling, and the highest sample where one is asked for. Under a true peak lies every sample. */
export const ceilingOf = ({
  ceilingDbtp,
  samplePeakDbfs,
}: Pick<DeliveryTarget, 'ceilingDbtp'> & Partial<Pick<DeliveryTarget, 'samplePeakDbfs'>>): number =>
  Math.min(ceilingDbtp, samplePeakDbfs ?? ceilingDbtp);

/** Where speech is to stand, LUFS; of a window of the RMS level its middle, since speech is about as loud as its RMS level says. */
export function speechBand({
  integratedLufs,
  toleranceLu,
  rmsDbfs,
}: Pick<DeliveryTarget, 'integratedLufs' | 'toleranceLu' | 'rmsDbfs'>): { readonly lufs: number; readonly toleranceLu: number } | null {
  if (integratedLufs !== null) return { lufs: integratedLufs, toleranceLu };
  return rmsDbfs && { lufs: (rmsDbfs[0] + rmsDbfs[1]) / 2, toleranceLu: (rmsDbfs[1] - rmsDbfs[0]) / 2 };
}

export const LOUDNESS_RANGE_LUFS = [-40, -8] as const;
export const CEILING_RANGE_DBTP = [-12, 0] as const;
export const RMS_RANGE_DBFS = [-40, -8] as const;
/** Widths of loudness that can be asked for. */
export const RANGE_RANGE_LU = [1, 40] as const;

const inRange = (value: unknown, [low, high]: readonly [number, number]): value is number =>
  typeof value === 'number' && value >= low && value <= high;

/** Reads a target from untrusted JSON. @throws {EngineError} `target-range` with the limit and what was given, or as `requireFileSpec` */
export function requireTarget(json: unknown): DeliveryTarget {
  if (typeof json !== 'object' || json === null)
    throw new EngineError(
      'target-range',
      `A target is an object of JSON with its figures; ${JSON.stringify(json) ?? 'nothing'} was given.`,
      {
        given: json,
      },
    );
  const given = json as Partial<Record<keyof DeliveryTarget, unknown>>;
  const refuse = (what: string, [low, high]: readonly [number, number], value: unknown): never => {
    throw new EngineError('target-range', `${what} goes from ${low} to ${high}; ${JSON.stringify(value) ?? 'nothing'} was given.`, {
      given: value,
    });
  };
  const needed = (what: string, value: unknown, range: readonly [number, number]): number =>
    inRange(value, range) ? value : refuse(what, range, value);
  /** null, or left out: not asked for. */
  const wished = (what: string, value: unknown, range: readonly [number, number]): number | null =>
    value === null || value === undefined ? null : needed(what, value, range);
  const { name, rmsDbfs } = given;
  const rms = (value: unknown): readonly [number, number] => {
    const [low, high] =
      Array.isArray(value) && value.length === 2 ? (value as readonly unknown[]) : refuse('The RMS window in dBFS', RMS_RANGE_DBFS, value);
    const window = [
      needed('The lower RMS level in dBFS', low, RMS_RANGE_DBFS),
      needed('The upper RMS level in dBFS', high, RMS_RANGE_DBFS),
    ] as const;
    return window[0] <= window[1] ? window : refuse('The RMS window in dBFS', RMS_RANGE_DBFS, value);
  };
  return {
    name: typeof name === 'string' && name.length <= 100 ? name : 'Own target',
    integratedLufs: wished('Target loudness in LUFS', given.integratedLufs, LOUDNESS_RANGE_LUFS),
    toleranceLu: needed('The tolerance in LU', given.toleranceLu, [0.1, 5]),
    rmsDbfs: rmsDbfs === null || rmsDbfs === undefined ? null : rms(rmsDbfs),
    ceilingDbtp: needed('The true-peak ceiling in dBTP', given.ceilingDbtp, CEILING_RANGE_DBTP),
    samplePeakDbfs: wished('The highest sample in dBFS', given.samplePeakDbfs, CEILING_RANGE_DBTP),
    rangeLu: wished('The loudness range in LU', given.rangeLu, RANGE_RANGE_LU),
    noiseFloorDbfs: wished('The noise floor in dBFS', given.noiseFloorDbfs, [-120, 0]),
    file: requireFileSpec(given.file),
    head: requireEdge(given.head, 'What is put before the sound'),
    tail: requireEdge(given.tail, 'What is put behind the sound'),
    namePattern: requireNamePattern(given.namePattern),
  };
}
