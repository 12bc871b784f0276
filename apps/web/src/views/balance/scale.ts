/** The loudness ruler that everybody stands on, LUFS. */
export const LOWEST_LUFS = -48;
export const HIGHEST_LUFS = -6;
export const TICKS = [-48, -42, -36, -30, -24, -18, -12, -6] as const;

/** Place on the ruler, percent from the left; what lies beyond stands at its end. */
export const placeOf = (lufs: number): number =>
  (100 * (Math.max(LOWEST_LUFS, Math.min(HIGHEST_LUFS, lufs)) - LOWEST_LUFS)) / (HIGHEST_LUFS - LOWEST_LUFS);
