import { MENDED_HOP, RepairProcessor, type Strip } from '../../ar/repair-processor.js';
import { ArKernel } from '../../kernels/ar-kernel.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { dbToGain, gainToDb } from '../../units.js';
import { defineTreatment, type ListRow, type ParameterValues, type TreatmentProcessor } from '../definition.js';

const parameters = {
  sensitivity: {
    title: 'Sensitivity',
    unit: '%',
    min: 0,
    max: 100,
    default: 50,
    step: 1,
    practice: [35, 65],
    scale: 'linear',
    sentence: 'How little a tick must stand out of what is around it. Gentle and twice beats hard and once.',
  },
  longestMs: {
    title: 'Longest',
    unit: 'ms',
    min: 0.2,
    max: 10,
    default: 4,
    step: 0.1,
    practice: [2, 5],
    scale: 'log',
    sentence: 'What lasts longer is no click and stays.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** A click must stand out this far of the third-highest peak around it, at sensitivity 0 and 100. */
const LEAST_RATIO_DB = [18, 3] as const;
/** Peaks are taken in cells of half a millisecond, and compared with those up to 40 ms away. */
const CELL_MS = 0.5;
const AROUND_MS = 30;
/** The click itself, and what it leaves in the prediction, do not count as its surroundings. */
const APART_MS = 2;
/** A residual this low is nobody's trouble. */
const LEAST_PEAK = dbToGain(-62);
/** A click has ended when the residual stays under so many times its median for this long. */
const END_RATIO = 5;
const END_MS = 0.25;
/** The model that fills reaches this far, over a period of most voices, and is estimated so often. */
const LONG_MODEL_MS = 6;
const LONG_ROUNDS = 1;
/** Exceptions are meant this precisely. */
const EXCEPTION_MS = 8;

/**
 * Clicks found where the residual of an AR model stands out of its surroundings (Godsill & Rayner 1998, section 5.2,
 * with a threshold that follows the pulses of the voice), and replaced by least-squares AR interpolation (section 5.3;
 * Janssen, Veldhuis & Vries 1986).
 */
class Clicks extends RepairProcessor implements TreatmentProcessor<typeof parameters> {
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  readonly #perHop: number;
  /** Of each channel, and those of the one at hand. */
  readonly #allCells: Float64Array[];
  #cells: Float64Array;
  readonly #sorted: Float64Array;
  readonly #long: ArKernel;
  readonly #most: number;
  readonly #damaged: Float64Array;
  #ratio = 1;
  #longestFrames = 0;
  #exceptions: readonly number[] = [];

  constructor(context: ProcessorContext, values: Values) {
    super(context);
    this.#onEvent = context.onEvent;
    // A whole number of cells a hop, so that they move on with it.
    this.#perHop = Math.min(this.hop / 4, Math.round(this.hop / ((CELL_MS / 1000) * context.sampleRateHz)));
    this.#allCells = this.strips.map(() => new Float64Array(8 * this.#perHop));
    this.#cells = this.#allCells[0]!;
    this.#most = Math.ceil((12 / 1000) * context.sampleRateHz);
    this.#damaged = new Float64Array(this.#most);
    this.#long = new ArKernel(
      context.kernels,
      Math.round((LONG_MODEL_MS / 1000) * context.sampleRateHz),
      8 * this.hop,
      2 * this.hop,
      this.#most,
    );
    this.#sorted = new Float64Array(2 * Math.round(AROUND_MS / CELL_MS / 2) + 1);
    this.setParameters(values);
  }

  setParameters(values: Values): boolean {
    const share = values.sensitivity / 100;
    this.#ratio = dbToGain(LEAST_RATIO_DB[0] + (LEAST_RATIO_DB[1] - LEAST_RATIO_DB[0]) * share);
    this.#longestFrames = (values.longestMs / 1000) * this.sampleRateHz;
    this.#exceptions = (values['exceptions'] as readonly ListRow[]).map((row) => (row['atSeconds'] as number) * this.sampleRateHz);
    return true;
  }

  protected forget(): void {
    for (const cells of this.#allCells) cells.fill(0);
    for (const { ar } of this.strips) {
      ar.predictionError.fill(0);
      ar.models.fill(0);
    }
  }

  protected mend(strip: Strip, frame: number): void {
    const { hop } = this;
    const { ar } = strip;
    this.#cells = this.#allCells[strip.channel]!;
    const e = ar.predictionError;
    e.copyWithin(0, hop);
    ar.models.copyWithin(0, ar.order + 1);
    // The residual of the hop two further on, with a model of two hops around it.
    const ahead = MENDED_HOP + 2;
    ar.model(ahead * hop - hop / 2, ahead);
    ar.residual(ahead * hop, (ahead + 1) * hop, ahead);
    const perHop = this.#perHop;
    this.#cells.copyWithin(0, perHop);
    this.#fillCells(e, ahead, ahead + 1);
    const last = (MENDED_HOP + 1) * perHop;
    for (let cell = MENDED_HOP * perHop; cell < last; cell++) {
      const peak = this.#cells[cell]!;
      if (peak < LEAST_PEAK || peak < this.#cells[cell - 1]! || peak < this.#cells[cell + 1]! || peak < this.#ratio * this.#around(cell))
        continue;
      this.#repair(strip, cell, frame);
    }
  }

  /** Peaks of the residual in the cells of hops [fromHop, toHop). */
  #fillCells(e: Float64Array, fromHop: number, toHop: number): void {
    const cells = this.#cells;
    const cellFrames = this.hop / this.#perHop;
    for (let cell = fromHop * this.#perHop; cell < toHop * this.#perHop; cell++) {
      let most = 0;
      for (let n = Math.floor(cell * cellFrames), end = Math.floor((cell + 1) * cellFrames); n < end; n++) {
        const size = e[n]!;
        if (size > most) most = size;
        else if (-size > most) most = -size;
      }
      cells[cell] = most;
    }
  }

  /** The third-highest peak around a cell: pulses of a voice are many and alike, so one of them never stands out. */
  #around(cell: number): number {
    const reach = Math.round(AROUND_MS / CELL_MS);
    const apart = Math.round(APART_MS / CELL_MS);
    let first = 0;
    let second = 0;
    let third = 0;
    for (let other = cell - reach; other <= cell + reach; other++) {
      if (Math.abs(other - cell) <= apart) continue;
      const peak = this.#cells[other] ?? 0;
      if (peak > first) {
        third = second;
        second = first;
        first = peak;
      } else if (peak > second) {
        third = second;
        second = peak;
      } else if (peak > third) third = peak;
    }
    return third;
  }

  #repair({ channel, x, ar }: Strip, cell: number, frame: number): void {
    const e = ar.predictionError;
    const cellFrames = this.hop / this.#perHop;
    let peakAt = Math.floor(cell * cellFrames);
    for (let n = peakAt; n < Math.floor((cell + 1) * cellFrames); n++) if (Math.abs(e[n]!) > Math.abs(e[peakAt]!)) peakAt = n;
    const recordingFrame = (n: number): number => frame + n - MENDED_HOP * this.hop;
    const near = (EXCEPTION_MS / 1000) * this.sampleRateHz;
    if (this.#exceptions.some((at) => Math.abs(at - recordingFrame(peakAt)) < near)) return;
    let [from, to] = this.#extent(x, ar, peakAt, cell);
    // The click is in the model that found it, which so predicts its ringing: a first repair of all that it could
    // reach, a model of what is around, and with that the true extent and the repair that stays.
    to = Math.min(from + this.#most, Math.max(to, from + Math.round(this.#longestFrames)));
    this.#damaged.set(x.subarray(from, to));
    this.#fill(ar, from, to);
    ar.model(MENDED_HOP * this.hop - this.hop / 2, MENDED_HOP);
    x.set(this.#damaged.subarray(0, to - from), from);
    ar.residual((MENDED_HOP - 1) * this.hop, (MENDED_HOP + 2) * this.hop, MENDED_HOP);
    this.#fillCells(e, MENDED_HOP - 1, MENDED_HOP + 2);
    [from, to] = this.#extent(x, ar, peakAt, cell);
    const count = to - from;
    if (count > this.#longestFrames || count > this.#most) return;
    this.#damaged.set(x.subarray(from, to));
    this.#fill(ar, from, to);
    this.#refine(x, from, to);
    let largest = 0;
    for (let i = 0; i < count; i++) largest = Math.max(largest, Math.abs(this.#damaged[i]! - x[from + i]!));
    ar.residual((MENDED_HOP - 1) * this.hop, (MENDED_HOP + 2) * this.hop, MENDED_HOP);
    this.#fillCells(e, MENDED_HOP - 1, MENDED_HOP + 2);
    this.#onEvent?.({
      kind: 'clicks',
      channel,
      startFrame: recordingFrame(from),
      endFrame: recordingFrame(to),
      amountDb: gainToDb(largest),
    });
  }

  #fill(ar: ArKernel, from: number, to: number): void {
    for (let n = from; n < to; n++) ar.missing[n - from] = n;
    ar.interpolate(to - from, MENDED_HOP);
  }

  /** Once more with a model that reaches over a period of the voice: what is gone for a millisecond comes back in its pulse. */
  #refine(x: Float64Array, from: number, to: number): void {
    const long = this.#long;
    long.strip.set(x);
    for (let n = from; n < to; n++) long.missing[n - from] = n;
    for (let round = 0; round < LONG_ROUNDS; round++) {
      long.model(MENDED_HOP * this.hop - this.hop / 2, 0);
      long.interpolate(to - from, 0);
    }
    x.set(long.strip.subarray(from, to), from);
  }

  /**
   * Where a click begins and ends. Prediction from before is wrong from its first sample on, and for the order of the
   * model after its end; prediction from behind is wrong from its last sample backwards. So each tells one end.
   */
  #extent(x: Float64Array, ar: ArKernel, peakAt: number, cell: number): readonly [number, number] {
    const e = ar.predictionError;
    const limit = Math.min(END_RATIO * this.#medianAround(cell), Math.abs(e[peakAt]!) / 4);
    const still = Math.max(3, Math.round((END_MS / 1000) * this.sampleRateHz));
    let from = peakAt;
    for (let n = peakAt, calm = 0; calm < still && peakAt - n < this.#most; n--) {
      if (Math.abs(e[n]!) > limit) {
        from = n;
        calm = 0;
      } else calm++;
    }
    const model = MENDED_HOP * (ar.order + 1);
    const backward = (n: number): number => {
      let sum = 0;
      for (let i = 0; i <= ar.order; i++) sum += ar.models[model + i]! * x[n + i]!;
      return Math.abs(sum);
    };
    let to = from;
    for (let n = from, calm = 0; calm < still + ar.order && n - from < this.#most; n++) {
      if (backward(n) > limit) {
        to = n;
        calm = 0;
      } else calm++;
    }
    return [from - 1, Math.max(to, from) + 2];
  }

  /** A typical size of the residual around a cell: half of the median of the peaks of its cells. */
  #medianAround(cell: number): number {
    const reach = Math.round(AROUND_MS / CELL_MS / 2);
    const apart = Math.round(APART_MS / CELL_MS);
    let count = 0;
    for (let other = cell - reach; other <= cell + reach; other++)
      if (Math.abs(other - cell) > apart) this.#sorted[count++] = this.#cells[other] ?? 0;
    const sorted = this.#sorted.subarray(0, count).sort();
    return (sorted[count >> 1] ?? 0) / 2.5;
  }
}

export const clicks = defineTreatment({
  kind: 'clicks',
  title: 'Clicks',
  sentence: 'Finds mouth clicks and crackle and fills their place with what the sound around them predicts.',
  parameters,
  lists: {
    exceptions: {
      title: 'Excepted',
      most: 500,
      sentence: 'Clicks that stay: a clock, a latch, a consonant that was taken for one.',
      fields: {
        atSeconds: {
          title: 'At',
          unit: 's',
          min: 0,
          max: 86400,
          default: 0,
          step: 0.001,
          practice: [0, 86400],
          scale: 'linear',
          sentence: 'Where it is, in seconds of the recording.',
        },
      },
    },
  },
  background: true,
  needsNoiseProfile: false,
  summary: (values) => `sensitivity ${values.sensitivity} % · up to ${values.longestMs} ms`,
  create: (context, values) => new Clicks(context, values),
});
