import { butterworthBandPass, lowPassSection, type Section } from '../filters/sections.js';
import { exactHz, NOMINAL_HZ } from '../survey/spectrum-facts.js';

/** Order of each slope: three meets class 1 of IEC 61260-1:2014 up to a quarter of the rate; above, the lower skirt is 2 dB short two octaves off. */
const ORDER = 3;
/** A band goes to the slowest copy of the sound in which it ends below this part of the rate. */
const REACH = 0.25;
/** Half of it goes on: what would fold onto bands below 1/8 of the rate is 80 dB down. */
const HALVING_HZ_PER_RATE = 0.2;
const HALVING_Q = [0.5098, 0.6013, 0.9, 2.5629];
/** Octaves by which the slowest copy is slower, at most. */
const MOST_HALVINGS = 8;

/** Direct form II transposed, for one sample after the other. */
class Filter {
  readonly #coefficients: Float64Array;
  readonly #state: Float64Array;

  constructor(sections: readonly Section[]) {
    this.#coefficients = Float64Array.from(sections.flat());
    this.#state = new Float64Array(2 * sections.length);
  }

  /** Filters in place. */
  process(samples: Float64Array, count: number): void {
    const c = this.#coefficients;
    const state = this.#state;
    for (let section = 0; 2 * section < state.length; section++) {
      const k = 5 * section;
      const [b0, b1, b2, a1, a2] = [c[k]!, c[k + 1]!, c[k + 2]!, c[k + 3]!, c[k + 4]!];
      let s1 = state[2 * section]!;
      let s2 = state[2 * section + 1]!;
      for (let n = 0; n < count; n++) {
        const x = samples[n]!;
        const y = b0 * x + s1;
        s1 = b1 * x - a1 * y + s2;
        s2 = b2 * x - a2 * y;
        samples[n] = y;
      }
      state[2 * section] = s1;
      state[2 * section + 1] = s2;
    }
  }
}

/** A copy of the sound at the rate / 2^n, with the bands that are heard in it, and the filter before the next one. */
interface Copy {
  readonly samples: Float64Array;
  readonly bands: readonly { readonly index: number; readonly filter: Filter }[];
  readonly halving: Filter;
}

/**
 * Third-octave filters (IEC 61260-1): Butterworth band-passes, lower ones on slower copies of the sound. Plain arithmetic, no kernel:
 * thirty filters would be thirty memories of a page that has few.
 */
export class ThirdOctaveBank {
  /** Frames of a step; the sound is taken step by step. */
  readonly stepFrames: number;
  /** Nominal centres of the bands, as many as fit under half the rate. */
  readonly hz: readonly number[];
  readonly #copies: readonly Copy[];
  readonly #scratch: Float64Array;

  /** @param stepSeconds about how long a step is */
  constructor(sampleRateHz: number, stepSeconds = 0.1) {
    const least = 2 ** MOST_HALVINGS;
    this.stepFrames = Math.max(1, Math.round((stepSeconds * sampleRateHz) / least)) * least;
    const upper = (index: number): number => exactHz(index) * 10 ** 0.05;
    this.hz = NOMINAL_HZ.filter((_, index) => upper(index) < 0.49 * sampleRateHz);
    const slownessOf = (index: number): number =>
      Math.max(0, Math.min(MOST_HALVINGS, Math.floor(Math.log2((REACH * sampleRateHz) / upper(index)))));
    this.#scratch = new Float64Array(this.stepFrames);
    this.#copies = Array.from({ length: MOST_HALVINGS + 1 }, (_, slow): Copy => {
      const rateHz = sampleRateHz / 2 ** slow;
      return {
        samples: new Float64Array(this.stepFrames / 2 ** slow),
        bands: this.hz.flatMap((_hz, index) => {
          if (slownessOf(index) !== slow) return [];
          return [{ index, filter: new Filter(butterworthBandPass(exactHz(index) * 10 ** -0.05, upper(index), ORDER, rateHz)) }];
        }),
        halving: new Filter(HALVING_Q.map((q) => lowPassSection(HALVING_HZ_PER_RATE * rateHz, q, rateHz))),
      };
    });
  }

  /** Takes the next step. @returns mean squares of the bands, in the order of `hz`; valid until the next one */
  step(samples: Float32Array, powers: Float64Array): void {
    this.#copies[0]!.samples.set(samples.length > this.stepFrames ? samples.subarray(0, this.stepFrames) : samples);
    this.#copies.forEach(({ samples: copy, bands, halving }, slow) => {
      const count = copy.length;
      const scratch = this.#scratch;
      for (const { index, filter } of bands) {
        for (let n = 0; n < count; n++) scratch[n] = copy[n]!;
        filter.process(scratch, count);
        let sum = 0;
        for (let n = 0; n < count; n++) sum += scratch[n]! * scratch[n]!;
        powers[index] = sum / count;
      }
      const next = this.#copies[slow + 1]?.samples;
      if (!next) return;
      halving.process(copy, count);
      for (let n = 0; n < next.length; n++) next[n] = copy[2 * n]!;
    });
  }
}
