import { cascadeMagnitude } from '../filters/sections.js';
import type { ThirdOctave } from '../survey/findings.js';
import { toneSection, type ToneBand } from '../treatments/tone/tone.js';

/** Talk is compared between these: below there is no voice, above little that two microphones have alike. */
const LOWEST_HZ = 100;
const HIGHEST_HZ = 10_000;
const MOST_BANDS = 6;
const MOST_DB = 6;
/** What is left is good enough. */
const ENOUGH_DB = 0.8;
const Q = [0.5, 0.7, 1, 1.4, 2] as const;
/** A band of either that lies so far below its loudest holds nothing but noise: it is not brought up. */
const HEARD_DB = 50;

/** By how much `reference` lies above `own` in each third octave, dB, loudness aside (their mean is 0). */
export function toneDifference(own: readonly ThirdOctave[], reference: readonly ThirdOctave[]): ThirdOctave[] {
  const loudest = (bands: readonly ThirdOctave[]): number => Math.max(...bands.map(({ dbfs }) => dbfs));
  const [top, refTop] = [loudest(own), loudest(reference)];
  const pairs = own.flatMap(({ hz, dbfs }) => {
    const other = reference.find((band) => band.hz === hz);
    const heard = other && dbfs > top - HEARD_DB && other.dbfs > refTop - HEARD_DB;
    return heard && hz >= LOWEST_HZ && hz <= HIGHEST_HZ ? [{ hz, dbfs: other.dbfs - dbfs }] : [];
  });
  const mean = pairs.reduce((sum, { dbfs }) => sum + dbfs, 0) / Math.max(1, pairs.length);
  return pairs.map(({ hz, dbfs }) => ({ hz, dbfs: dbfs - mean }));
}

/** What bands do to a tone, dB. */
export const toneGainDb = (bands: readonly ToneBand[], hz: number, sampleRateHz: number): number =>
  bands.reduce((sum, band) => sum + 20 * Math.log10(cascadeMagnitude([toneSection(band, sampleRateHz)], hz, sampleRateHz)), 0);

/**
 * Bells that bring the tone of `own` to that of `reference`: one after the other, each where most is left, as wide as leaves least. At most
 * six, of 6 dB at most: what needs more is another microphone, not another tone.
 */
export function matchTone(own: readonly ThirdOctave[], reference: readonly ThirdOctave[], sampleRateHz: number): ToneBand[] {
  const wished = toneDifference(own, reference);
  if (wished.length < 6) return [];
  const bands: ToneBand[] = [];
  const left = (tried: readonly ToneBand[]): number[] => {
    const gains = wished.map(({ hz, dbfs }) => dbfs - toneGainDb(tried, hz, sampleRateHz));
    const mean = gains.reduce((sum, db) => sum + db, 0) / gains.length;
    return gains.map((db) => db - mean);
  };
  const power = (rest: readonly number[]): number => rest.reduce((sum, db) => sum + db * db, 0);
  while (bands.length < MOST_BANDS) {
    const rest = left(bands);
    // Over three bands: a single one may be a tone of the room.
    const even = rest.map((db, i) => (db + (rest[i - 1] ?? db) + (rest[i + 1] ?? db)) / 3);
    const at = even.reduce((best, db, i) => (Math.abs(db) > Math.abs(even[best]!) ? i : best), 0);
    if (Math.abs(even[at]!) < ENOUGH_DB) break;
    const candidates = Q.flatMap((q) =>
      [0.6, 0.8, 1, 1.2].map((share): ToneBand => ({
        shape: 'bell',
        frequencyHz: wished[at]!.hz,
        gainDb: Math.round(10 * Math.max(-MOST_DB, Math.min(MOST_DB, share * even[at]!))) / 10,
        q,
      })),
    );
    const best = candidates.reduce((a, b) => (power(left([...bands, b])) < power(left([...bands, a])) ? b : a));
    if (power(left([...bands, best])) >= power(rest)) break;
    bands.push(best);
  }
  return bands.sort((a, b) => a.frequencyHz - b.frequencyHz);
}
