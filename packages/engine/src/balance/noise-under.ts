import { cascadeMagnitude, kWeighting, type ThirdOctave } from '@euphonos/dsp';

/** What is left of the noise of speech tracks where a bed plays. */
export interface NoiseUnderBed {
  /** How far the noise lies under the bed, LU. */
  readonly underLu: number;
  /** Third octaves in which it is heard all the same, with how far it stands over what would hide it, dB. */
  readonly heard: readonly { readonly hz: number; readonly overDb: number }[];
}

/** Noise in a third octave is hidden by music in the same one that is so much louder. Common practice, no source. */
const HIDDEN_DB = 5;
/** What is softer than this is heard by nobody, whatever plays. Common practice, no source. */
const SILENT_DBFS = -84;
const FROM_HZ = 50;

const sum = (spectra: readonly (readonly ThirdOctave[])[]): Map<number, number> => {
  const powers = new Map<number, number>();
  for (const { hz, dbfs } of spectra.flat()) if (hz >= FROM_HZ) powers.set(hz, (powers.get(hz) ?? 0) + 10 ** (dbfs / 10));
  return powers;
};

/**
 * The noise of all speech tracks together against a bed, by third octave (IEC 61260-1) and, K-weighted (BS.1770-5), in LU.
 * @param noises of every speech track, at its level in the mix. @param bed at its level while somebody speaks. null where either is silent
 */
export function noiseUnderBed(
  noises: readonly (readonly ThirdOctave[])[],
  bed: readonly ThirdOctave[],
  sampleRateHz: number,
): NoiseUnderBed | null {
  const [noise, music] = [sum(noises), sum([bed])];
  const weighting = kWeighting(sampleRateHz);
  const weighted = (powers: ReadonlyMap<number, number>): number =>
    [...powers].reduce(
      (total, [hz, power]) => total + (hz < sampleRateHz / 2 ? power * cascadeMagnitude(weighting, hz, sampleRateHz) ** 2 : 0),
      0,
    );
  const [a, b] = [weighted(music), weighted(noise)];
  if (!(a > 1e-12 && b > 1e-14)) return null;
  const heard = [...noise].flatMap(([hz, power]) => {
    const db = 10 * Math.log10(power);
    const overDb = db - (10 * Math.log10((music.get(hz) ?? 0) + 1e-12) - HIDDEN_DB);
    return db > SILENT_DBFS && overDb > 0 ? [{ hz, overDb: Math.round(10 * overDb) / 10 }] : [];
  });
  return { underLu: 10 * Math.log10(a / b), heard };
}

/** Third octaves at another level. */
export const atLevel = (bands: readonly ThirdOctave[], db: number): ThirdOctave[] => bands.map(({ hz, dbfs }) => ({ hz, dbfs: dbfs + db }));
