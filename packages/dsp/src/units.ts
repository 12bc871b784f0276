/** Amplitude ratio of a level difference in dB: 10^(db/20). */
export const dbToGain = (db: number): number => 10 ** (db / 20);

/** Level difference in dB of an amplitude ratio; -Infinity for 0. */
export const gainToDb = (gain: number): number => 20 * Math.log10(Math.abs(gain));

/** Power ratio of a level difference in dB: 10^(db/10). */
export const dbToPower = (db: number): number => 10 ** (db / 10);

/** Level in dB of a power ratio; -Infinity for 0. */
export const powerToDb = (power: number): number => 10 * Math.log10(power);

/** Whole frames in a duration, rounded to the nearest. */
export const msToFrames = (ms: number, sampleRateHz: number): number => Math.round((ms / 1000) * sampleRateHz);
