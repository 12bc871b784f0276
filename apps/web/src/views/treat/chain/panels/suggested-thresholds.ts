/** It closes a little above what is left in the gaps, and opens so much higher. Common practice, no source. */
const ABOVE_GAPS_DB = 6;
const HYSTERESIS_DB = 4.5;
/** No nearer to the words than this. */
const BELOW_WORDS_DB = 12;

/** Thresholds for what comes in: levels of gaps and words. */
export function suggestedThresholds(gapsDbfs: number, wordsDbfs: number): { readonly closeDb: number; readonly openDb: number } {
  const half = (db: number): number => Math.round(db * 2) / 2;
  const closeDb = half(Math.max(-90, Math.min(gapsDbfs + ABOVE_GAPS_DB, wordsDbfs - BELOW_WORDS_DB - HYSTERESIS_DB)));
  return { closeDb, openDb: half(closeDb + HYSTERESIS_DB) };
}
