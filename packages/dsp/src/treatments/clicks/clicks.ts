import { HOPS, MENDED_HOP, RepairProcessor, type Strip } from '../../ar/repair-processor.js';
import { ArKernel } from '../../kernels/ar-kernel.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { gainToDb } from '../../units.js';
import { ClickDetector } from './click-detector.js';
import { StandingOut } from './standing-out.js';
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
    default: 10,
    step: 0.1,
    practice: [4, 10],
    scale: 'log',
    sentence: 'What lasts longer is no click and stays.',
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** How sure the detector must be (a logit), at sensitivity 0 and 100. */
const LEAST_SURE = [5.6, -4.4] as const;
/** The residual of the prediction is looked at in cells of half a millisecond; its usual size is taken of those so near. */
const CELL_MS = 0.5;
const AROUND_MS = 15;
/** The click itself, and what it leaves in the prediction, do not count as its surroundings. */
const APART_MS = 2;
/** What rings longer is taken out of the bands in which it stands out. */
const SHORT_MS = 1.4;
/** A click has ended when the residual stays under so many times its median for this long. */
const END_RATIO = 5;
const END_MS = 0.25;
/** The model that fills reaches this far, over a period of most voices, and is estimated so often. */
const LONG_MODEL_MS = 6;
const LONG_ROUNDS = 1;
/** Exceptions are meant this precisely. */
const EXCEPTION_MS = 8;

/**
 * Clicks are found as they are heard: where a band stands out of what it holds around, and a small network takes it for a click
 * rather than for talk (./click-detector, learned). Short ones are replaced by least-squares AR interpolation (Godsill & Rayner 1998,
 * section 5.3; Janssen, Veldhuis & Vries 1986); of long ones what stands out is taken, band by band (./standing-out).
 */
class Clicks extends RepairProcessor implements TreatmentProcessor<typeof parameters> {
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  readonly #perHop: number;
  readonly #cells: Float64Array;
  readonly #detectors: readonly ClickDetector[];
  readonly #standingOut: StandingOut;
  readonly #sorted: Float64Array;
  readonly #long: ArKernel;
  readonly #most: number;
  readonly #damaged: Float64Array;
  #leastSure = 0;
  #longestFrames = 0;
  #exceptions: readonly number[] = [];

  constructor(context: ProcessorContext, values: Values) {
    super(context);
    this.#onEvent = context.onEvent;
    // A whole number of cells a hop, so that they move on with it.
    this.#perHop = Math.min(this.hop / 4, Math.round(this.hop / ((CELL_MS / 1000) * context.sampleRateHz)));
    this.#cells = new Float64Array(8 * this.#perHop);
    this.#detectors = this.strips.map(() => new ClickDetector(context.kernels, context.sampleRateHz, this.hop, HOPS));
    this.#most = Math.ceil((15 / 1000) * context.sampleRateHz);
    this.#damaged = new Float64Array(2 * this.#most);
    this.#standingOut = new StandingOut(context.kernels, context.sampleRateHz, this.#most);
    this.#long = new ArKernel(
      context.kernels,
      Math.round((LONG_MODEL_MS / 1000) * context.sampleRateHz),
      8 * this.hop,
      2 * this.hop,
      this.#most,
    );
    this.#sorted = new Float64Array(2 * Math.round(AROUND_MS / CELL_MS) + 1);
    this.setParameters(values);
  }

  setParameters(values: Values): boolean {
    const share = values.sensitivity / 100;
    this.#leastSure = LEAST_SURE[0] + (LEAST_SURE[1] - LEAST_SURE[0]) * share;
    this.#longestFrames = (values.longestMs / 1000) * this.sampleRateHz;
    this.#exceptions = (values['exceptions'] as readonly ListRow[]).map((row) => (row['atSeconds'] as number) * this.sampleRateHz);
    return true;
  }

  protected forget(): void {
    for (const detector of this.#detectors) detector.reset();
  }

  protected mend(strip: Strip, frame: number): void {
    const detector = this.#detectors[strip.channel]!;
    const { perHop } = detector;
    detector.moveOn();
    // The last hop of the strip has come; what lies beside the one after the mended one is known now.
    const newest = (HOPS - 1) * perHop;
    detector.hear(strip.x, newest - 4, newest + perHop - 4);
    detector.compare((MENDED_HOP + 1) * perHop - 4, (MENDED_HOP + 2) * perHop - 4);
    for (let t = MENDED_HOP * perHop; t < (MENDED_HOP + 1) * perHop; t++) {
      if (detector.judge(t) < this.#leastSure) continue;
      const [from, to] = detector.extent(t);
      const end = this.#repair(strip, t, from, to, frame);
      if (end === null) continue;
      // What is mended is no click, and no measure for its neighbours.
      const last = Math.max(to, Math.ceil(end / detector.frameSamples));
      detector.hear(strip.x, from - 4, last + 5);
      detector.compare(Math.max(MENDED_HOP * perHop, from - 4), Math.min((MENDED_HOP + 1) * perHop, last + 5));
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

  /** Mends the click of frame `t` of the detector, which stands out in its frames [first, last]. Where it ends in the strip; null where it stays. */
  #repair(strip: Strip, t: number, first: number, last: number, frame: number): number | null {
    const { x, ar } = strip;
    const { frameSamples } = this.#detectors[strip.channel]!;
    const middle = Math.round(t * frameSamples);
    const recordingFrame = (n: number): number => frame + n - MENDED_HOP * this.hop;
    const near = (EXCEPTION_MS / 1000) * this.sampleRateHz;
    if (this.#exceptions.some((at) => Math.abs(at - recordingFrame(middle)) < near)) return null;
    // A frame sees half of itself to either side.
    const from = Math.round((first + 1) * frameSamples);
    const to = Math.round((last - 1) * frameSamples) + 1;
    const found = to - from > (SHORT_MS / 1000) * this.sampleRateHz ? null : this.#shortOne(strip, middle, Math.round(frameSamples * 3));
    const [start, stop] = found ?? [Math.min(from, middle - 2) - 8, Math.max(to, middle + 2) + 8];
    // Seen through frames, a click is longer than it is.
    const seen = found ? 16 : 6 * frameSamples;
    if (stop - start > this.#longestFrames + seen || stop - start > this.#most) return null;
    const most = Math.min(x.length, start + this.#damaged.length);
    this.#damaged.set(x.subarray(start, most));
    if (found) {
      this.#fill(ar, start, stop);
      this.#refine(x, start, stop);
    }
    const end = found ? stop : this.#standingOut.lower(x, start, stop);
    let largest = 0;
    for (let i = 0; i < end - start; i++) largest = Math.max(largest, Math.abs(this.#damaged[i]! - x[start + i]!));
    this.#onEvent?.({
      kind: 'clicks',
      channel: strip.channel,
      startFrame: recordingFrame(start),
      endFrame: recordingFrame(end),
      amountDb: gainToDb(largest),
    });
    return end;
  }

  /** Where a short click begins and ends, to the sample; null where it is no short one. */
  #shortOne({ x, ar }: Strip, middle: number, reach: number): readonly [number, number] | null {
    const e = ar.predictionError;
    const residual = (): void => {
      ar.residual((MENDED_HOP - 1) * this.hop, (MENDED_HOP + 2) * this.hop, MENDED_HOP);
      this.#fillCells(e, MENDED_HOP - 1, MENDED_HOP + 2);
    };
    ar.model(MENDED_HOP * this.hop - this.hop / 2, MENDED_HOP);
    residual();
    let peakAt = middle;
    for (let n = middle - reach; n <= middle + reach; n++) if (Math.abs(e[n]!) > Math.abs(e[peakAt]!)) peakAt = n;
    const cell = Math.floor(peakAt / (this.hop / this.#perHop));
    let [from, to] = this.#extent(x, ar, peakAt, cell);
    // The click is in the model that found it, which so predicts its ringing: a first repair of all that it could
    // reach, a model of what is around, and with that the true extent.
    const short = Math.round((SHORT_MS / 1000) * this.sampleRateHz);
    to = Math.min(from + this.#most, Math.max(to, from + short));
    this.#damaged.set(x.subarray(from, to));
    this.#fill(ar, from, to);
    ar.model(MENDED_HOP * this.hop - this.hop / 2, MENDED_HOP);
    x.set(this.#damaged.subarray(0, to - from), from);
    residual();
    [from, to] = this.#extent(x, ar, peakAt, cell);
    return to - from > 1.5 * short ? null : [from, to];
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
    const reach = Math.round(AROUND_MS / CELL_MS);
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
