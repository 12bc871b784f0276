import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { frameSizeFor, HOPS_PER_FRAME } from '../../spectrum/window.js';
import { dbToGain, powerToDb } from '../../units.js';
import { NoiseReductionProcessor, type NoiseInsight } from './noise-reduction-processor.js';
import { LossTrack, MISSED_DB, type VoiceLoss } from './loss-track.js';
import { floorGains } from './reduction-curve.js';
import { effectiveValues, type NoiseReductionValues } from './settings.js';

/** What one depth of noise reduction takes and costs in a passage. */
export interface NoisePrice {
  readonly reductionDb: number;
  /** How much lower the noise is where nobody talks, dB. */
  readonly noiseTakenDb: number;
  /** Power of the voice in what is removed, against the voice, dB: -30 is a thousandth. */
  readonly speechLossDb: number;
}

export interface PriceCurve {
  /** At the present depth, in their order. */
  readonly losses: readonly VoiceLoss[];
  readonly points: readonly NoisePrice[];
  /** Index of the point from which on more reduction takes little more; see `kneeOf`. */
  readonly knee: number;
  /** Index of the depth that is suggested; see `suggestionOf`. */
  readonly suggested: number;
}

/** A loss that is hardly heard beside the source, and the depth beyond which a rest sounds cut out. Common practice, no source. */
const GOOD_LOSS_DB = -20;
const GOOD_DEPTH_DB = 18;

const DEEPEST_DB = 40;
/** The model hears nobody: mean share of its bins up to 8 kHz. */
const SILENT_SHARE = 0.03;
/** … and nothing else stands out: no more than this over the power of the noise. */
const SILENT_OVER_NOISE = 2;
const LEAST_DB = -80;
/** Voice and noise are summed by bin and by the gain they were given, in classes of half a decibel down to -60. */
const CLASS_DB = 0.5;
const CLASSES = 121;

/**
 * The trade-off of noise reduction in a passage: for every depth from 0 to 40 dB what it takes of the noise and of the
 * voice, in one run at full depth, since a depth is only the lowest gain. The voice in a bin is estimated as its share
 * (speech model) of the power over the noise; what of it is removed is (1 - gain)² of that.
 * @param samples the passage as it comes to the noise reduction, after `skipFrames` for it to settle.
 * @throws {DspError} as NoiseReductionProcessor.
 */
export function measurePrice(context: ProcessorContext, given: NoiseReductionValues, samples: PlanarBlock, skipFrames: number): PriceCurve {
  const values = effectiveValues(given);
  const processor = new NoiseReductionProcessor(context, { ...values, reductionDb: DEEPEST_DB });
  const size = frameSizeFor(context.sampleRateHz);
  const hop = size / HOPS_PER_FRAME;
  const binHz = context.sampleRateHz / size;
  const floorsOf = (reductionDb: number) => samples.map((_, c) => floorGains({ ...values, reductionDb }, binHz, processor.tones(c)));
  const sums = samples.map(() => new GainSums(size / 2 + 1, Math.round(8000 / binHz)));
  const out = samples.map(() => new Float32Array(hop));
  // So many frames later is the one that came weighed.
  const late = (processor.latencyFrames - size) / hop;
  const first = Math.ceil(skipFrames / hop) + late;
  const track = new LossTrack(floorsOf(values.reductionDb));
  const frames = Math.floor((samples[0]?.length ?? 0) / hop);
  for (let f = 0; f < frames; f++) {
    processor.process(
      samples.map((x) => x.subarray(f * hop, (f + 1) * hop)),
      out,
      hop,
    );
    if (f < first) continue;
    sums.forEach((sum, c) => sum.add(processor.insight(c)));
    track.add(samples.map((_, c) => processor.insight(c)));
  }
  const points = Array.from({ length: DEEPEST_DB + 1 }, (_, reductionDb): NoisePrice => {
    const all = { voice: 0, lost: 0, noise: 0, left: 0 };
    const floors = floorsOf(reductionDb);
    sums.forEach((sum, c) => sum.read(floors[c]!, all));
    return {
      reductionDb,
      noiseTakenDb: all.noise > 0 ? powerToDb(all.noise / Math.max(all.left, 1e-20)) : 0,
      speechLossDb: all.voice > 0 ? Math.max(LEAST_DB, powerToDb(all.lost / all.voice + 1e-12) + MISSED_DB) : LEAST_DB,
    };
  });
  // The frame that was weighed when frame f came is as much earlier; its middle is half a frame before its end.
  const middle = (i: number): number => (first + i - late + 1) * hop - size / 2 - skipFrames;
  return { points, knee: kneeOf(points), suggested: suggestionOf(points), losses: track.losses(hop, middle) };
}

/** Voice and noise of a channel by bin and by the gain that they were given at full depth. */
class GainSums {
  readonly #voice: Float64Array;
  readonly #noise: Float64Array;
  readonly #topBin: number;
  static readonly #gains = Float64Array.from({ length: CLASSES }, (_, i) => dbToGain(-i * CLASS_DB));

  constructor(
    private readonly bins: number,
    topBin: number,
  ) {
    this.#voice = new Float64Array(bins * CLASSES);
    this.#noise = new Float64Array(bins * CLASSES);
    this.#topBin = Math.min(bins, topBin);
  }

  /** Takes a frame. */
  add(insight: NoiseInsight): void {
    const { gain, share, weighedPower, noisePower } = insight;
    const silent = this.#isSilent(insight);
    for (let k = 1; k < this.bins; k++) {
      const at = k * CLASSES + Math.min(CLASSES - 1, Math.max(0, Math.round((-20 / CLASS_DB) * Math.log10(gain[k]! + 1e-9))));
      this.#voice[at]! += share[k]! * Math.max(0, weighedPower[k]! - noisePower[k]!);
      // The noise itself, not what a word leaves behind in its gap.
      if (silent) this.#noise[at]! += noisePower[k]!;
    }
  }

  #isSilent({ share, weighedPower, noisePower }: NoiseInsight): boolean {
    let heard = 0;
    let power = 0;
    let known = 0;
    for (let k = 1; k < this.#topBin; k++) {
      heard += share[k]!;
      power += weighedPower[k]!;
      known += noisePower[k]!;
    }
    return heard < SILENT_SHARE * this.#topBin && power < SILENT_OVER_NOISE * known;
  }

  /** Adds to `all` what there is and what is lost or left of it when gains go no lower than `floors`. */
  read(floors: Float32Array, all: { voice: number; lost: number; noise: number; left: number }): void {
    for (let k = 1; k < this.bins; k++)
      for (let i = 0; i < CLASSES; i++) {
        const g = Math.max(GainSums.#gains[i]!, floors[k]!);
        const voice = this.#voice[k * CLASSES + i]!;
        const noise = this.#noise[k * CLASSES + i]!;
        all.voice += voice;
        all.lost += (1 - g) * (1 - g) * voice;
        all.noise += noise;
        all.left += g * g * noise;
      }
  }
}

/** The deepest reduction up to 18 dB whose loss is hardly heard; where even a little costs more, the bend. */
export function suggestionOf(points: readonly NoisePrice[]): number {
  const good = points.filter(({ reductionDb, speechLossDb }) => reductionDb <= GOOD_DEPTH_DB && speechLossDb <= GOOD_LOSS_DB);
  const deepest = points.indexOf(good[good.length - 1]!);
  return deepest > 0 ? deepest : kneeOf(points);
}

/** Where the curve of loss (as amplitude) over noise taken bends most: farthest from the line between its ends (Satopää et al. 2011). */
export function kneeOf(points: readonly NoisePrice[]): number {
  const loss = (point: NoisePrice): number => 10 ** (point.speechLossDb / 20);
  const [first, last] = [points[0]!, points[points.length - 1]!];
  const width = last.noiseTakenDb - first.noiseTakenDb || 1;
  const height = loss(last) - loss(first) || 1;
  const bend = points.map((point) => Math.abs((loss(point) - loss(first)) / height - (point.noiseTakenDb - first.noiseTakenDb) / width));
  return bend.indexOf(Math.max(...bend));
}
