/** Bands of the speech model: 0.6 of an auditory filter wide (ERB, Glasberg & Moore 1990, eq. 3), 50 Hz at least. */
const LOWEST_HZ = 50;
const HIGHEST_HZ = 8000;
const LEAST_WIDTH_HZ = 50;
const ERB_SHARE = 0.6;

function edges(): readonly number[] {
  const found = [LOWEST_HZ];
  for (let hz = LOWEST_HZ; hz < HIGHEST_HZ; found.push(hz))
    hz = Math.min(HIGHEST_HZ, hz + Math.max(LEAST_WIDTH_HZ, ERB_SHARE * 24.7 * (0.00437 * hz + 1)));
  return found;
}

/** Edges of the bands, Hz; one more than there are bands. */
export const speechBandEdgesHz: readonly number[] = edges();
export const SPEECH_BANDS = speechBandEdgesHz.length - 1;

/** First bin of each band, and the bin after the last band, for a spectrum with bins `binHz` apart; each band has one at least. */
export function speechBandBins(binHz: number): Int32Array {
  const bins = Int32Array.from(speechBandEdgesHz, (hz) => Math.round(hz / binHz));
  for (let b = 1; b < bins.length; b++) bins[b] = Math.max(bins[b]!, bins[b - 1]! + 1);
  return bins;
}

/** What the model is told of a band: the level over the noise, in steps of three nepers of power, from -20 dB on. */
export const bandFeature = (power: number, noise: number): number => Math.log(power / noise + 0.01) / 3;
