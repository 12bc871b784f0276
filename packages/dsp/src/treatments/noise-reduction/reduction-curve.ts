import { dbToGain } from '../../units.js';
import type { ListRow } from '../definition.js';
import { parameters, type NoiseReductionValues } from './settings.js';

/** What says how far each frequency may be lowered. */
export interface ReductionShape {
  readonly reductionDb: number;
  /** Added below `LOW_HZ` and above `HIGH_HZ`; the change takes an octave on either side of them. */
  readonly lowsDb: number;
  readonly highsDb: number;
  /** Outside of this range nothing is touched; the edge takes a third of an octave. */
  readonly fromHz: number;
  readonly toHz: number;
  /** Points of a curve, straight lines between them over the logarithm of the frequency, back to none within an octave beyond: added, dB. */
  readonly points: readonly ListRow[];
}

const LOW_HZ = 300;
const HIGH_HZ = 4000;
/** No bin is ever lowered by more. */
export const MOST_REDUCTION_DB = 60;

const octaves = (hz: number, from: number): number => Math.log2(Math.max(1, hz) / from);
const ramp = (x: number): number => Math.max(0, Math.min(1, x));

/** The offset that points make at a frequency, dB: straight lines between them, back to none within an octave beyond the outer ones. */
export const curveOffsetDb = (hz: number, points: readonly ListRow[]): number => pointsDb(hz, sorted(points));

const sorted = (points: readonly ListRow[]) =>
  points.map((row) => [row['frequencyHz'] as number, row['offsetDb'] as number] as const).sort((a, b) => a[0] - b[0]);

function pointsDb(hz: number, points: readonly (readonly [number, number])[]): number {
  const after = points.findIndex(([at]) => at > hz);
  const beyond = ([at, db]: readonly [number, number]): number => db * ramp(1 - Math.abs(octaves(hz, at)));
  if (after < 0) return points.length === 0 ? 0 : beyond(points[points.length - 1]!);
  if (after === 0) return beyond(points[0]!);
  const [lowHz, lowDb] = points[after - 1]!;
  const [highHz, highDb] = points[after]!;
  return lowDb + ((highDb - lowDb) * octaves(hz, lowHz)) / octaves(highHz, lowHz);
}

/** The most by which each of `count` frequencies `stepHz` apart, from 0 on, may be lowered: dB, 0 to MOST_REDUCTION_DB. */
export function reductionCurveDb(stepHz: number, count: number, shape: ReductionShape): Float32Array {
  // At the ends of its rulers a range has no limit: a recording at 96 kHz reaches beyond.
  const fromStart = shape.fromHz <= parameters.fromHz.min;
  const toEnd = shape.toHz >= parameters.toHz.max;
  const plain = shape.lowsDb === 0 && shape.highsDb === 0 && shape.points.length === 0 && fromStart && toEnd;
  // Most of the time there is no shape, and a control moves in the audio thread.
  if (plain) return new Float32Array(count).fill(shape.reductionDb);
  const points = sorted(shape.points);
  return Float32Array.from({ length: count }, (_, k) => {
    const hz = k * stepHz;
    const lows = shape.lowsDb * ramp(0.5 - octaves(hz, LOW_HZ) / 2);
    const highs = shape.highsDb * ramp(0.5 + octaves(hz, HIGH_HZ) / 2);
    const inside = (fromStart ? 1 : ramp(1 + 3 * octaves(hz, shape.fromHz))) * (toEnd ? 1 : ramp(1 - 3 * octaves(hz, shape.toHz)));
    return Math.max(0, Math.min(MOST_REDUCTION_DB, shape.reductionDb + lows + highs + pointsDb(hz, points))) * inside;
  });
}

/** Half the width over which a tone in the noise is told from what is around it. */
const AROUND_OCTAVES = 1 / 6;

/** A bin this far over its surroundings is a tone. */
const TONE_DB = 3;

/**
 * How far tones of the noise stand over what is around them, dB by bin: what they are lowered further when no tone is to
 * stay in the rest. Surroundings: mean level over a third of an octave (six bins to a side at least), taken twice, the
 * second time without what stood out.
 */
export function tonesDb(noise: Float32Array): Float32Array {
  const levels = Float64Array.from(noise, (power) => 10 * Math.log10(power + 1e-20));
  const smooth = (values: Float64Array): Float64Array => {
    const sums = new Float64Array(values.length + 1);
    for (let k = 0; k < values.length; k++) sums[k + 1] = sums[k]! + values[k]!;
    return values.map((_, k) => {
      const from = Math.max(0, Math.min(k - 6, Math.floor(k * 2 ** -AROUND_OCTAVES)));
      const to = Math.min(values.length, Math.max(k + 7, Math.ceil(k * 2 ** AROUND_OCTAVES)));
      return (sums[to]! - sums[from]!) / (to - from);
    });
  };
  const first = smooth(levels);
  const around = smooth(levels.map((level, k) => Math.min(level, first[k]!)));
  return Float32Array.from(levels, (level, k) => (level - around[k]! > TONE_DB ? level - around[k]! : 0));
}

/** Lowest gain of each of `tones.length` bins: as deep as the settings allow, and tones as much deeper as is to be. */
export function floorGains(values: NoiseReductionValues, binHz: number, tones: Float32Array): Float32Array {
  const points = (values['curve'] as readonly ListRow[] | undefined) ?? [];
  const tonalShare = 1 - values.tonalPercent / 100;
  return reductionCurveDb(binHz, tones.length, { ...values, points }).map((db, k) => dbToGain(db === 0 ? 0 : -db - tonalShare * tones[k]!));
}
