import type { Level } from '../balance/levels.js';
import { ceilingOf, type DeliveryTarget } from './targets.js';

/** Something that a target asks for and that the gain to its level will not meet: what it is, and what would do. */
export interface Foreseen {
  readonly title: string;
  readonly words: string;
  readonly by: 'noise-reduction' | 'levelling' | 'limiter';
}

/** More than this the limiter does not take from peaks without being heard. Common practice, no source. */
const MOST_LIMITED_DB = 6;
const shown = (value: number): string => (Math.round(value * 10) / 10).toFixed(1).replace('-', '−');

/** The gain that brings a level to what a target aims at, dB; 0 where it aims at none. */
export function gainTo({ lufs, rmsDbfs }: Pick<Level, 'lufs'> & { readonly rmsDbfs?: number | null }, target: DeliveryTarget): number {
  if (target.integratedLufs !== null) return lufs === null ? 0 : target.integratedLufs - lufs;
  // Of speech the RMS level is near its loudness where it is not known.
  const rms = rmsDbfs ?? lufs;
  return target.rmsDbfs === null || rms === null ? 0 : (target.rmsDbfs[0] + target.rmsDbfs[1]) / 2 - rms;
}

/** What sounds between the words where a bed does. */
export const FLOOR_BESIDE_BED =
  'Between the words the bed sounds, and a floor cannot be told beside it: ask for none here, or render the speakers alone.';

/**
 * What of a target cannot be met by a gain and the limiter, before anything is rendered.
 * @param bed music or an atmosphere sounds with it
 */
export function foresee(level: Level & { readonly rmsDbfs?: number | null }, target: DeliveryTarget, bed = false): Foreseen[] {
  const gainDb = gainTo(level, target);
  const found: Foreseen[] = [];
  const { floorDbfs, truePeakDbtp, rangeLu } = level;
  if (target.noiseFloorDbfs !== null && floorDbfs !== null && floorDbfs + gainDb > target.noiseFloorDbfs + 0.05)
    found.push({
      title: 'Noise floor',
      words: bed
        ? FLOOR_BESIDE_BED
        : `${gainDb > 0.05 ? `The gain of ${shown(gainDb)} dB lifts the gaps to` : 'The gaps lie at'} ${shown(floorDbfs + gainDb)} dBFS; at most ${shown(target.noiseFloorDbfs)} is asked. ${shown(floorDbfs + gainDb - target.noiseFloorDbfs)} dB more noise reduction or a gate would do.`,
      by: 'noise-reduction',
    });
  const over = truePeakDbtp === null ? 0 : truePeakDbtp + gainDb - ceilingOf(target);
  if (over > MOST_LIMITED_DB)
    found.push({
      title: 'Peaks',
      words: `Peaks would stand ${shown(over)} dB over the ceiling; so much is heard when it is limited. Levelling and a compressor before it would take ${shown(over - MOST_LIMITED_DB)} dB of that.`,
      by: 'levelling',
    });
  if (target.rangeLu !== null && rangeLu !== null && rangeLu > target.rangeLu + 0.05)
    found.push({
      title: 'Loudness range',
      words: `The range is ${shown(rangeLu)} LU; at most ${shown(target.rangeLu)} is asked. Levelling brings it down.`,
      by: 'levelling',
    });
  return found;
}
