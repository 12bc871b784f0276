import { MENDED_HOP, RepairProcessor, type Strip } from '../../ar/repair-processor.js';
import type { ArKernel } from '../../kernels/ar-kernel.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { dbToGain, gainToDb } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { ClipLevels, FLAT_TOLERANCE, FlatTopFinder, LEVEL_REACH_SECONDS } from './flat-tops.js';

const parameters = {
  levelDbfs: {
    title: 'Clips at',
    unit: 'dBFS',
    min: -40,
    max: 0,
    default: 0,
    step: 0.1,
    practice: [-3, 0],
    scale: 'linear',
    finer: true,
    sentence: 'With "set by hand": everything from this level on is rebuilt. For soft clipping that has no flat tops.',
  },
  lowerDb: {
    title: 'Lower by',
    unit: 'dB',
    min: 0,
    max: 24,
    default: 0,
    step: 0.1,
    practice: [3, 9],
    scale: 'linear',
    sentence: 'Makes room for the rebuilt peaks. A render that would still clip is lowered as a whole.',
  },
  mostDb: {
    title: 'Rebuilt up to',
    unit: 'dB',
    min: 3,
    max: 24,
    default: 18,
    step: 0.5,
    practice: [9, 18],
    scale: 'linear',
    finer: true,
    sentence: 'How far above the clipped level a peak may be rebuilt.',
  },
} as const;

const choices = {
  find: {
    title: 'Level',
    default: 'flat-tops',
    sentence: 'How the clipped level is known.',
    options: [
      { value: 'flat-tops', title: 'flat tops', sentence: 'Found by itself, on each side, also below full scale.' },
      { value: 'by-hand', title: 'set by hand', sentence: 'What reaches the level set is rebuilt.' },
    ],
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** The first of the two rounds only betters the guess: a model of two fifths of the order does, at a fifth of the price. */
const ROUGH_SHARE = 0.4;
/** Share of the next hop that is solved along, so that a flat top over the edge has its other side in view. */
const ALONG_SHARE = 1 / 8;
/**
 * The higher an estimate lies above the level, the less certain it is and the more it is held back: a rise of the level
 * itself by this share. Best over three talkers clipped at 20 to 80 % of their peak (`npm run bench quality`).
 */
const HELD_BACK = 0.1;

/**
 * Flat tops rebuilt: a first guess that continues the slopes at their edges (cubic Hermite), then two rounds of AR
 * estimation and least-squares interpolation (Janssen, Veldhuis & Vries 1986) with the constraint that a clipped sample
 * lies beyond the level it was clipped at (Záviška, Rajmic, Ozerov & Rencker 2021, section II).
 */
class Clipping extends RepairProcessor implements TreatmentProcessor<typeof parameters> {
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  readonly #finders: FlatTopFinder[];
  readonly #levels: ClipLevels[];
  readonly #reachFrames: number;
  #values!: Values;

  constructor(context: ProcessorContext, values: Values) {
    super(context, LEVEL_REACH_SECONDS);
    this.#onEvent = context.onEvent;
    this.#reachFrames = Math.round(LEVEL_REACH_SECONDS * context.sampleRateHz);
    this.#levels = this.strips.map(() => new ClipLevels());
    this.#finders = this.#levels.map((levels) => new FlatTopFinder((top) => levels.add(top)));
    this.setParameters(values);
  }

  setParameters(values: Values): boolean {
    this.#values = values;
    this.outputGain = dbToGain(-values.lowerDb);
    return true;
  }

  protected forget(): void {
    for (const finder of this.#finders) finder.reset();
    for (const levels of this.#levels) levels.reset();
  }

  protected override arrived(channel: number, x: Float32Array, frames: number, frame: number): void {
    this.#levels[channel]!.take(x, frames, frame);
    this.#finders[channel]!.take(x, frames, frame);
  }

  protected mend(strip: Strip, frame: number): void {
    const { hop } = this;
    const { channel, x, ar } = strip;
    const { missing, sides } = ar;
    const [up, down] = this.#levelsAt(channel, frame);
    if (up === Infinity && down === Infinity) return;
    const from = MENDED_HOP * hop;
    // What the model looks at beyond what is solved is guessed.
    const inSight = ar.findBeyond(from, from + hop + hop / 2, up, down);
    let inHop = 0;
    while (inHop < inSight && missing[inHop]! < from + hop) inHop++;
    if (inHop === 0) return;
    let count = inHop;
    while (count < inSight && missing[count]! < from + hop * (1 + ALONG_SHARE)) count++;
    this.#guess(strip, inSight);
    this.#round(ar, Math.round(ROUGH_SHARE * ar.order), count, up, down);
    this.#round(ar, ar.order, count, up, down);
    let most = 0;
    for (let i = 0; i < inHop; i++) {
      const n = missing[i]!;
      const level = sides[i] === 1 ? up : -down;
      const held = level + (x[n]! - level) / (1 + HELD_BACK * (x[n]! / level - 1));
      x[n] = held;
      most = Math.max(most, held / level);
    }
    this.#onEvent?.({
      kind: 'clipping',
      channel,
      startFrame: frame + missing[0]! - from,
      endFrame: frame + missing[inHop - 1]! - from + 1,
      amountDb: gainToDb(most),
    });
  }

  /** Levels of the upper and the lower side from which on a sample counts as clipped. */
  #levelsAt(channel: number, frame: number): readonly [number, number] {
    if (this.#values['find'] === 'by-hand') {
      const level = dbToGain(this.#values.levelDbfs) * 0.9999;
      return [level, level];
    }
    const at = (sign: 1 | -1): number => this.#levels[channel]!.at(sign, frame, this.#reachFrames) - FLAT_TOLERANCE;
    return [at(1), at(-1)];
  }

  /** One estimate and interpolation, held beyond the level and within the most that is rebuilt. */
  #round(ar: ArKernel, order: number, count: number, up: number, down: number): void {
    ar.useOrder(order);
    ar.model(MENDED_HOP * this.hop - this.hop / 2, 0);
    ar.interpolate(count, 0);
    ar.holdBeyond(count, up, down, dbToGain(this.#values.mostDb));
  }

  /** Each run is bridged by the cubic that has the slopes at its edges. */
  #guess({ x, ar: { missing, sides } }: Strip, count: number): void {
    for (let i = 0; i < count;) {
      let j = i;
      while (j + 1 < count && missing[j + 1]! === missing[j]! + 1 && sides[j + 1] === sides[i]) j++;
      const before = missing[i]! - 1;
      const after = missing[j]! + 1;
      const side = sides[i]!;
      const length = after - before;
      const rise = Math.max(0, (x[before]! - x[before - 1]!) * side);
      const fall = Math.min(0, (x[after + 1]! - x[after]!) * side);
      for (let n = before + 1; n < after; n++) {
        const t = (n - before) / length;
        const cubic =
          (1 + 2 * t) * (1 - t) ** 2 * x[before]! * side +
          t * (1 - t) ** 2 * length * rise +
          t * t * (3 - 2 * t) * x[after]! * side +
          t * t * (t - 1) * length * fall;
        x[n] = side * Math.max(cubic, x[n]! * side);
      }
      i = j + 1;
    }
  }
}

export const clipping = defineTreatment({
  kind: 'clipping',
  title: 'Clipping',
  sentence: 'Finds flat tops, also below full scale, and rebuilds the peaks that were cut off.',
  parameters,
  choices,
  background: true,
  mayRaise: true,
  needsNoiseProfile: false,
  // A level that is moved is meant to count.
  reconcile: (values, moved) => (moved === 'levelDbfs' ? { ...values, find: 'by-hand' } : values),
  summary: (values) =>
    (values['find'] === 'by-hand' ? `from ${values.levelDbfs} dBFS` : 'flat tops') +
    (values.lowerDb > 0 ? ` · lowered ${values.lowerDb} dB` : ''),
  create: (context, values) => new Clipping(context, values),
});
