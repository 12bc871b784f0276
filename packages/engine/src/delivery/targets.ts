import { EngineError } from '../errors.js';

/** What a delivery must meet. null: not asked for. */
export interface DeliveryTarget {
  readonly name: string;
  /** Loudness that the gain aims at. */
  readonly integratedLufs: number | null;
  /** Accepted distance from it, either way. */
  readonly toleranceLu: number;
  readonly ceilingDbtp: number;
  /** Highest noise floor accepted. */
  readonly noiseFloorDbfs: number | null;
}

/** Presets; sources beside each. All but the broadcast ones are common practice without a published source. */
export const targets: readonly DeliveryTarget[] = [
  // AES recommendations for streams, and common practice.
  { name: 'Podcast, stereo', integratedLufs: -16, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  { name: 'Podcast, mono', integratedLufs: -19, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  // Common practice, no source.
  { name: 'Online video', integratedLufs: -14, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 },
  // EBU R 128.
  { name: 'European broadcast', integratedLufs: -23, toleranceLu: 0.5, ceilingDbtp: -1, noiseFloorDbfs: null },
  // ATSC A/85.
  { name: 'North-American broadcast', integratedLufs: -24, toleranceLu: 2, ceilingDbtp: -2, noiseFloorDbfs: null },
  // Common practice, no source: RMS -23 … -18 dBFS, for which speech sits near -20 LUFS.
  { name: 'Long-form narration', integratedLufs: -20, toleranceLu: 1.5, ceilingDbtp: -3, noiseFloorDbfs: -60 },
];

export const LOUDNESS_RANGE_LUFS = [-40, -8] as const;
export const CEILING_RANGE_DBTP = [-12, 0] as const;

const inRange = (value: unknown, [low, high]: readonly [number, number]): value is number =>
  typeof value === 'number' && value >= low && value <= high;

/** Reads a target from untrusted JSON. @throws {EngineError} `target-range` with the limit and what was given */
export function requireTarget(json: object): DeliveryTarget {
  const { name, integratedLufs, toleranceLu, ceilingDbtp, noiseFloorDbfs } = json as Record<keyof DeliveryTarget, unknown>;
  const refuse = (what: string, [low, high]: readonly [number, number], given: unknown): never => {
    throw new EngineError('target-range', `${what} goes from ${low} to ${high}; ${String(given)} was given.`, { given });
  };
  return {
    name: typeof name === 'string' && name.length <= 100 ? name : 'Own target',
    integratedLufs:
      integratedLufs === null
        ? null
        : inRange(integratedLufs, LOUDNESS_RANGE_LUFS)
          ? integratedLufs
          : refuse('Target loudness in LUFS', LOUDNESS_RANGE_LUFS, integratedLufs),
    toleranceLu: inRange(toleranceLu, [0.1, 5]) ? toleranceLu : refuse('The tolerance in LU', [0.1, 5], toleranceLu),
    ceilingDbtp: inRange(ceilingDbtp, CEILING_RANGE_DBTP)
      ? ceilingDbtp
      : refuse('The true-peak ceiling in dBTP', CEILING_RANGE_DBTP, ceilingDbtp),
    noiseFloorDbfs: inRange(noiseFloorDbfs, [-120, 0]) ? noiseFloorDbfs : null,
  };
}
