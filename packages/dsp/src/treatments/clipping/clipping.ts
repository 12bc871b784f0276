import { MENDED_HOP, RepairProcessor, type Strip } from '../../ar/repair-processor.js';
import { ArKernel } from '../../kernels/ar-kernel.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { dbToGain, gainToDb } from '../../units.js';
import { defineTreatment, type ParameterValues, type TreatmentProcessor } from '../definition.js';
import { ClipLevels, FLAT_TOLERANCE, FlatTopFinder, LEVEL_REACH_SECONDS } from './flat-tops.js';

const parameters = {
  levelDbfs: {
    title: 'Clips at', unit: 'dBFS', min: -40, max: 0, default: 0, step: 0.1, practice: [-3, 0], scale: 'linear', finer: true,
    sentence: 'With "set by hand": everything from this level on is rebuilt. For soft clipping that has no flat tops.',
  },
  lowerDb: {
    title: 'Lower by', unit: 'dB', min: 0, max: 24, default: 0, step: 0.1, practice: [3, 9], scale: 'linear',
    sentence: 'Makes room for the rebuilt peaks. A render that would still clip is lowered as a whole.',
  },
  mostDb: {
    title: 'Rebuilt up to', unit: 'dB', min: 3, max: 24, default: 18, step: 0.5, practice: [9, 18], scale: 'linear', finer: true,
    sentence: 'How far above the clipped level a peak may be rebuilt.',
  },
} as const;

const choices = {
  find: {
    title: 'Level', default: 'flat-tops', sentence: 'How the clipped level is known.',
    options: [
      { value: 'flat-tops', title: 'flat tops', sentence: 'Found by itself, on each side, also below full scale.' },
      { value: 'by-hand', title: 'set by hand', sentence: 'What reaches the level set is rebuilt.' },
    ],
  },
} as const;

type Values = ParameterValues<typeof parameters>;

/** The first of the two rounds only betters the guess: a model of two thirds of the order does, at half the price. */
const ROUGH_SHARE = 0.65;
/**
 * What goes beyond the level is taken with this share: an uncertain estimate errs less when it is held back. The best
 * share was 0.85 to 1.0 for three talkers clipped at 20 to 60 % of their peak (`npm run bench quality`).
 */
const HELD_BACK = 0.93;

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
  readonly #sides: Int8Array;
  readonly #rough: ArKernel;
  #values!: Values;

  constructor(context: ProcessorContext, values: Values) {
    super(context, LEVEL_REACH_SECONDS);
    this.#onEvent = context.onEvent;
    this.#reachFrames = Math.round(LEVEL_REACH_SECONDS * context.sampleRateHz);
    this.#levels = this.strips.map(() => new ClipLevels());
    this.#finders = this.#levels.map((levels) => new FlatTopFinder((top) => levels.add(top)));
    this.#sides = new Int8Array(2 * this.hop);
    const { order } = this.strips[0]!.ar;
    this.#rough = new ArKernel(context.kernels, Math.round(ROUGH_SHARE * order), 8 * this.hop, 2 * this.hop, 2 * this.hop);
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
    const { missing } = ar;
    const [up, down] = this.#levelsAt(channel, frame);
    if (up === Infinity && down === Infinity) return;
    const from = MENDED_HOP * hop;
    // A quarter of the next hop is solved along, so that a flat top over the edge has its other side in view; the
    // rest of what the model looks at is guessed.
    const solved = from + hop + hop / 4;
    const seen = from + hop + hop / 2;
    let inHop = 0;
    let count = 0;
    let inSight = 0;
    for (let n = from; n < seen; n++) {
      const side = x[n]! >= up ? 1 : x[n]! <= -down ? -1 : 0;
      if (side === 0) continue;
      this.#sides[inSight] = side;
      missing[inSight++] = n;
      if (n < solved) count++;
      if (n < from + hop) inHop++;
    }
    if (inHop === 0) return;
    this.#guess(strip, inSight);
    this.#solve(strip, count, up, down);
    for (let i = 0; i < inHop; i++) {
      const level = this.#sides[i] === 1 ? up : -down;
      x[missing[i]!] = level + HELD_BACK * (x[missing[i]!]! - level);
    }
    let most = 0;
    for (let i = 0; i < inHop; i++) most = Math.max(most, Math.abs(x[missing[i]!]!) / (this.#sides[i] === 1 ? up : down));
    this.#onEvent?.({ kind: 'clipping', channel, startFrame: frame + missing[0]! - from, endFrame: frame + missing[inHop - 1]! - from + 1, amountDb: gainToDb(most) });
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

  #solve({ x, ar }: Strip, count: number, up: number, down: number): void {
    const rough = this.#rough;
    rough.strip.set(x);
    rough.missing.set(ar.missing.subarray(0, count));
    this.#round(rough, count, up, down);
    for (let i = 0; i < count; i++) x[ar.missing[i]!] = rough.strip[ar.missing[i]!]!;
    this.#round(ar, count, up, down);
  }

  /** One estimate and interpolation, held beyond the level and within the most that is rebuilt. */
  #round({ strip, missing, model, interpolate }: ArKernel, count: number, up: number, down: number): void {
    const most = dbToGain(this.#values.mostDb);
    model(MENDED_HOP * this.hop - this.hop / 2, 0);
    interpolate(count, 0);
    for (let i = 0; i < count; i++) {
      const side = this.#sides[i]!;
      const level = side === 1 ? up : down;
      const n = missing[i]!;
      strip[n] = side * Math.max(level, Math.min(level * most, strip[n]! * side));
    }
  }

  /** Each run is bridged by the cubic that has the slopes at its edges. */
  #guess({ x, ar: { missing } }: Strip, count: number): void {
    for (let i = 0; i < count; ) {
      let j = i;
      while (j + 1 < count && missing[j + 1]! === missing[j]! + 1 && this.#sides[j + 1] === this.#sides[i]) j++;
      const before = missing[i]! - 1;
      const after = missing[j]! + 1;
      const side = this.#sides[i]!;
      const length = after - before;
      const rise = Math.max(0, (x[before]! - x[before - 1]!) * side);
      const fall = Math.min(0, (x[after + 1]! - x[after]!) * side);
      for (let n = before + 1; n < after; n++) {
        const t = (n - before) / length;
        const cubic = (1 + 2 * t) * (1 - t) ** 2 * x[before]! * side + t * (1 - t) ** 2 * length * rise + t * t * (3 - 2 * t) * x[after]! * side + t * t * (t - 1) * length * fall;
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
  summary: (values) => (values['find'] === 'by-hand' ? `from ${values.levelDbfs} dBFS` : 'flat tops') + (values.lowerDb > 0 ? ` · lowered ${values.lowerDb} dB` : ''),
  create: (context, values) => new Clipping(context, values),
});
