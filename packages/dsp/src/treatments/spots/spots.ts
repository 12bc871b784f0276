import type { ProcessorContext } from '../../processor.js';
import { SpectralProcessor } from '../../spectrum/spectral-processor.js';
import { frameSizeFor } from '../../spectrum/window.js';
import { dbToGain } from '../../units.js';
import { defineTreatment, type ListRow, type ListSpec, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { BoxNoise } from './box-noise.js';

/** One place in time and frequency. */
export interface Spot {
  readonly way: 'lower' | 'replace' | 'noise';
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly lowHz: number;
  readonly highHz: number;
  readonly reductionDb: number;
}

/** Longest spot: what is replaced needs its other end in view. */
const LONGEST_SECONDS = 5;
const parameters = {} as const;

const spotsList: ListSpec = {
  title: 'Spots',
  most: 200,
  sentence: 'Places in time and frequency: a ring tone, a chair, a cough under a pause.',
  choices: {
    way: {
      title: 'Way',
      default: 'lower',
      sentence: 'What happens inside.',
      options: [
        { value: 'lower', title: 'lower', sentence: 'Lowered by the reduction.' },
        { value: 'replace', title: 'replace', sentence: 'Brought to the level of its surroundings in time.' },
        {
          value: 'noise',
          title: 'noise',
          sentence: 'Its own noise is profiled and lowered by the reduction; what stands out of it stays.',
        },
      ],
    },
  },
  fields: {
    startSeconds: {
      title: 'From',
      unit: 's',
      min: 0,
      max: 86400,
      default: 0,
      step: 0.001,
      practice: [0, 86400],
      scale: 'linear',
      sentence: 'Where it begins, in seconds of the recording.',
    },
    endSeconds: {
      title: 'To',
      unit: 's',
      min: 0,
      max: 86400,
      default: 0,
      step: 0.001,
      practice: [0, 86400],
      scale: 'linear',
      sentence: 'Where it ends.',
    },
    lowHz: {
      title: 'From',
      unit: 'Hz',
      min: 0,
      max: 96000,
      default: 0,
      step: 1,
      practice: [0, 20000],
      scale: 'linear',
      sentence: 'Lower edge.',
    },
    highHz: {
      title: 'To',
      unit: 'Hz',
      min: 0,
      max: 96000,
      default: 20000,
      step: 1,
      practice: [0, 20000],
      scale: 'linear',
      sentence: 'Upper edge.',
    },
    reductionDb: {
      title: 'Reduction',
      unit: 'dB',
      min: 0,
      max: 80,
      default: 18,
      step: 0.5,
      practice: [6, 30],
      scale: 'linear',
      sentence: 'How far it is lowered.',
    },
  },
  conflict: (row) => {
    const { startSeconds, endSeconds, lowHz, highHz } = row as unknown as Spot;
    if (startSeconds >= endSeconds) return `startSeconds (${startSeconds}) must be before endSeconds (${endSeconds}).`;
    if (endSeconds - startSeconds > LONGEST_SECONDS)
      return `a spot is up to ${LONGEST_SECONDS} s long; this one has ${(endSeconds - startSeconds).toFixed(2)} s.`;
    return lowHz >= highHz ? `lowHz (${lowHz}) must be below highHz (${highHz}).` : undefined;
  },
};

type Values = ParameterValues<typeof parameters>;
const spotsOf = (values: Values): readonly Spot[] => values['spots'] as readonly Spot[];

/** A spot in frames of the transform and bins. */
interface Place {
  readonly spot: Spot;
  readonly first: number;
  readonly last: number;
  readonly low: number;
  readonly high: number;
  /** For those whose noise is reduced. */
  readonly noise: BoxNoise | null;
}

/** Frames before and after a spot whose level is taken for its surroundings, and their distance from it. */
const AROUND_FRAMES = 6;
const APART_FRAMES = 2;
/** Edges in frequency are feathered over this many bins. */
const FEATHER_BINS = 3;

/**
 * Lowers places in time and frequency, or brings each bin in them to the power between its mean before and its mean
 * after (interpolated in dB, phase kept). Windows feather the edges in time, a slope of three bins those in frequency.
 */
class Spots extends SpectralProcessor implements TreatmentProcessor<typeof parameters> {
  readonly #places: Place[];
  readonly #ring: Float32Array[];
  readonly #before: Float32Array;
  readonly #after: Float32Array;
  readonly #key: string;

  constructor(context: ProcessorContext, values: Values) {
    const size = frameSizeFor(context.sampleRateHz);
    const spots = spotsOf(values);
    const hop = size / 4;
    const longest = spots.reduce(
      (most, { way, startSeconds, endSeconds }) => Math.max(most, way === 'lower' ? 0 : endSeconds - startSeconds),
      0,
    );
    // Only what replaces, or profiles, has to see the other side.
    super(context, size, longest === 0 ? 0 : Math.ceil((longest * context.sampleRateHz) / hop) + AROUND_FRAMES + 2 * APART_FRAMES + 2);
    const startFrame = context.startFrame ?? 0;
    // A frame belongs to a spot when its middle lies in it.
    const frameAt = (seconds: number): number => (seconds * context.sampleRateHz - startFrame + size / 2) / hop - 1;
    this.#places = spots.map((spot) => ({
      spot,
      first: Math.ceil(frameAt(spot.startSeconds)),
      last: Math.max(Math.ceil(frameAt(spot.startSeconds)), Math.floor(frameAt(spot.endSeconds))),
      low: Math.round(spot.lowHz / this.binHz),
      high: Math.min(this.bins - 1, Math.round(spot.highHz / this.binHz)),
      noise: spot.way === 'noise' ? new BoxNoise(this.bins, Math.ceil((longest * context.sampleRateHz) / hop) + 2) : null,
    }));
    this.#ring = Array.from(
      { length: longest === 0 ? 0 : this.lookAhead + AROUND_FRAMES + APART_FRAMES + 2 },
      () => new Float32Array(this.bins),
    );
    this.#before = new Float32Array(this.bins);
    this.#after = new Float32Array(this.bins);
    this.#key = JSON.stringify(spots);
  }

  setParameters(values: Values): boolean {
    return JSON.stringify(spotsOf(values)) === this.#key;
  }

  protected forget(): void {
    for (const power of this.#ring) power.fill(0);
  }

  protected frameArrived(power: Float32Array, index: number): void {
    if (this.#ring.length > 0) this.#ring[index % this.#ring.length]!.set(power);
  }

  protected gainsOf(gain: Float32Array, index: number): boolean {
    let touched = false;
    for (const place of this.#places) {
      if (index < place.first || index > place.last) continue;
      if (!touched) gain.fill(1);
      touched = true;
      if (place.spot.way === 'replace') this.#replace(gain, place, index);
      else if (place.noise) this.#reduce(gain, place, place.noise, index);
      else this.#weigh(gain, place, () => dbToGain(-place.spot.reductionDb));
    }
    return touched;
  }

  #powerOf(frame: number): Float32Array {
    return this.#ring[((frame % this.#ring.length) + this.#ring.length) % this.#ring.length]!;
  }

  #reduce(gain: Float32Array, place: Place, noise: BoxNoise, index: number): void {
    const { first, last, low, high, spot } = place;
    const from = Math.max(0, low - FEATHER_BINS + 1);
    // Of a box that began before the stream, the rest of it is profiled.
    if (index === Math.max(0, first))
      noise.learn(from, Math.min(this.bins - 1, high + FEATHER_BINS - 1), last - index + 1, (i) => this.#powerOf(index + i));
    const [before, power, after] = [this.#powerOf(index - 1), this.#powerOf(index), this.#powerOf(index + 1)];
    this.#weigh(gain, place, (k) => noise.gain(k, before, power, after, spot.reductionDb));
  }

  #replace(gain: Float32Array, place: Place, index: number): void {
    this.#mean(this.#before, place.first - APART_FRAMES - AROUND_FRAMES, place.first - APART_FRAMES);
    this.#mean(this.#after, place.last + APART_FRAMES + 1, place.last + APART_FRAMES + AROUND_FRAMES + 1);
    const share = (index - place.first + 1) / (place.last - place.first + 2);
    const power = this.#ring[index % this.#ring.length]!;
    this.#weigh(gain, place, (k) => {
      const wanted = this.#before[k]! ** (1 - share) * this.#after[k]! ** share;
      return Math.min(1, Math.sqrt(wanted / Math.max(power[k]!, 1e-20)));
    });
  }

  /** Mean power of frames [from, to) that are still in the ring. */
  #mean(into: Float32Array, from: number, to: number): void {
    into.fill(1e-20);
    for (let frame = from; frame < to; frame++) {
      const power = this.#powerOf(frame);
      for (let k = 0; k < this.bins; k++) into[k]! += power[k]! / (to - from);
    }
  }

  #weigh(gain: Float32Array, { low, high }: Place, inside: (bin: number) => number): void {
    for (let k = Math.max(0, low - FEATHER_BINS + 1); k < Math.min(this.bins, high + FEATHER_BINS); k++) {
      const outside = Math.max(low - k, k - high, 0);
      gain[k]! *= inside(k) ** (1 - outside / FEATHER_BINS);
    }
  }
}

export const spots = defineTreatment({
  kind: 'spots',
  title: 'Spots',
  sentence: 'Sounds at one place in time and frequency, lowered, replaced by what is around them, or freed of their noise.',
  parameters,
  lists: { spots: spotsList },
  background: true,
  needsNoiseProfile: false,
  summary: (values) => {
    const count = spotsOf(values).length;
    return count === 0 ? 'none yet' : count === 1 ? '1 spot' : `${count} spots`;
  },
  create: (context, values) => new Spots(context, values),
});

export const asSpots = (rows: readonly ListRow[]): readonly Spot[] => rows as unknown as readonly Spot[];
