import { dbToGain, type SoundFigures } from '@euphonos/dsp';

/** How loud a track or a clip is. null where there is nothing to measure: silence, or too short. */
export interface Level {
  readonly lufs: number | null;
  readonly rangeLu: number | null;
  readonly truePeakDbtp: number | null;
  readonly samplePeakDbfs: number | null;
  readonly floorDbfs: number | null;
  /** Mean of the samples, of full scale. */
  readonly dcOffset: number;
}

/** A track or one of its clips: as it was recorded, and as it comes out of its chain with its clips' levels, before its own level among the others. */
export interface MeasuredLevel {
  readonly before: Level;
  readonly after: Level;
}

/** A line of the balance: a track, or one of its clips. */
export interface BalanceLine {
  readonly trackId: string;
  /** null for the track as a whole. */
  readonly clipId: string | null;
  /** What is set now: level of the track, or gain of the clip. */
  readonly gainDb: number;
  readonly before: Level;
  /** As it is in the mix. */
  readonly after: Level;
}

export const levelOf = ({
  integratedLufs,
  loudnessRangeLu,
  truePeakDbtp,
  samplePeakDbfs,
  noiseFloorDbfs,
  dcOffset,
}: SoundFigures): Level => ({
  lufs: integratedLufs,
  rangeLu: loudnessRangeLu,
  truePeakDbtp,
  samplePeakDbfs,
  floorDbfs: noiseFloorDbfs,
  dcOffset,
});

/** The same, so many decibels louder. */
export function raised(level: Level, db: number): Level {
  const add = (value: number | null): number | null => (value === null ? null : value + db);
  return {
    ...level,
    lufs: add(level.lufs),
    truePeakDbtp: add(level.truePeakDbtp),
    samplePeakDbfs: add(level.samplePeakDbfs),
    floorDbfs: add(level.floorDbfs),
    dcOffset: level.dcOffset * dbToGain(db),
  };
}

/** How far the loudest and the softest are apart, LU; null with fewer than two. */
export function spreadLu(levels: readonly (number | null)[]): number | null {
  const known = levels.filter((lufs) => lufs !== null);
  return known.length < 2 ? null : Math.max(...known) - Math.min(...known);
}
