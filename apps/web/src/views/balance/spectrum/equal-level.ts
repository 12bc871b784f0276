import type { ThirdOctave } from '@euphonos/dsp';

/** Tones are brought to one level by what lies between these: what is below is rumble, above there is little. */
const LOWEST_HZ = 100;
const HIGHEST_HZ = 10_000;

export type Bands = readonly ThirdOctave[];

const levelOf = (bands: Bands): number =>
  10 * Math.log10(bands.filter(({ hz }) => hz >= LOWEST_HZ && hz <= HIGHEST_HZ).reduce((sum, { dbfs }) => sum + 10 ** (dbfs / 10), 1e-16));

/** A spectrum raised or lowered so that it is as loud as another. */
export function asLoudAs(bands: Bands, other: Bands): Bands {
  const db = levelOf(other) - levelOf(bands);
  return bands.map(({ hz, dbfs }) => ({ hz, dbfs: dbfs + db }));
}

/** By how much `bands` lies above `other`, band by band, dB. */
export function difference(bands: Bands, other: Bands): Bands {
  const known = new Map(other.map(({ hz, dbfs }) => [hz, dbfs]));
  return bands.flatMap(({ hz, dbfs }) => (known.has(hz) ? [{ hz, dbfs: dbfs - known.get(hz)! }] : []));
}
