import type { Memory } from '../../memory.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { bandPower, SpectralProcessor } from '../../spectrum/spectral-processor.js';
import { frameSizeFor } from '../../spectrum/window.js';
import { dbToGain, dbToPower, powerToDb } from '../../units.js';
import { defineTreatment, type TreatmentProcessor } from '../definition.js';
import { LiveSibilance } from './live-sibilance.js';
import { BODY_HZ, BODY_SECONDS, TALK_DBFS, parameters, type SibilanceSpecs, type SibilanceValues } from './settings.js';

/** A split-band de-esser: lowers the band of an s, and nothing below it, by what it is too loud against the voice. */
class Sibilance extends SpectralProcessor implements TreatmentProcessor<SibilanceSpecs> {
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  readonly #startFrame: number;
  readonly #body: readonly [number, number];
  readonly #scale: number;
  readonly #framesPerMs: number;
  readonly #bodyShare: number;
  #from = 0;
  #to = 0;
  #values!: SibilanceValues;
  #bodyPower = 0;
  #downDb = 0;
  #eventFrom = -1;
  #eventDb = 0;

  constructor(context: ProcessorContext, values: SibilanceValues) {
    super(context, Math.max(128, frameSizeFor(context.sampleRateHz) / 2));
    this.#onEvent = context.onEvent;
    this.#startFrame = context.startFrame ?? 0;
    this.#body = [Math.max(1, Math.round(BODY_HZ[0] / this.binHz)), Math.round(BODY_HZ[1] / this.binHz)];
    this.#scale = 2 / (this.size * (this.size / 4));
    this.#framesPerMs = context.sampleRateHz / 1000 / this.hop;
    this.#bodyShare = 1 - Math.exp(-1 / (BODY_SECONDS * 1000 * this.#framesPerMs));
    this.setParameters(values);
  }

  setParameters(values: SibilanceValues): boolean {
    this.#values = values;
    this.#from = Math.min(this.bins - 2, Math.round(values.lowHz / this.binHz));
    this.#to = Math.min(this.bins - 1, Math.round(values.highHz / this.binHz));
    return true;
  }

  protected forget(): void {
    this.#bodyPower = 0;
    this.#downDb = 0;
    this.#eventFrom = -1;
  }

  remember(memory: Memory): void {
    this.#bodyPower = memory.number(this.#bodyPower);
    this.#downDb = memory.number(this.#downDb);
  }

  protected frameArrived(power: Float32Array, index: number): void {
    const { thresholdDb, reductionDb, ratio, releaseMs } = this.#values;
    const body = bandPower(power, this.#body[0], this.#body[1]) * this.#scale;
    const band = bandPower(power, this.#from, this.#to + 1) * this.#scale;
    if (body > dbToPower(TALK_DBFS) && body > band) {
      // At once up to the first words, then slowly.
      const share = this.#bodyPower === 0 ? 1 : Math.max(this.#bodyShare, body > this.#bodyPower * 16 ? 0.2 : 0);
      this.#bodyPower += share * (body - this.#bodyPower);
    }
    const overDb = this.#bodyPower === 0 || band === 0 ? 0 : powerToDb(band / this.#bodyPower) - thresholdDb;
    const wanted = Math.min(reductionDb, Math.max(0, overDb) * (1 - 1 / ratio));
    this.#downDb =
      wanted > this.#downDb ? wanted : this.#downDb + (wanted - this.#downDb) * (1 - Math.exp(-1 / (releaseMs * this.#framesPerMs)));
    if (this.#downDb < 0.05) this.#downDb = 0;
    this.#report(index);
  }

  #report(index: number): void {
    if (this.#downDb >= 1) {
      if (this.#eventFrom < 0) this.#eventFrom = index;
      this.#eventDb = Math.max(this.#eventDb, this.#downDb);
    } else if (this.#eventFrom >= 0) {
      const at = (frame: number): number => this.#startFrame + (frame + 1) * this.hop - this.size / 2;
      this.#onEvent?.({ kind: 'sibilance', channel: 0, startFrame: at(this.#eventFrom), endFrame: at(index), amountDb: this.#eventDb });
      this.#eventFrom = -1;
      this.#eventDb = 0;
    }
  }

  protected gainsOf(gain: Float32Array): boolean {
    if (this.#downDb === 0) return false;
    const down = dbToGain(-this.#downDb);
    const half = Math.sqrt(down);
    for (let k = 0; k < this.bins; k++)
      gain[k] = k >= this.#from && k <= this.#to ? down : k === this.#from - 1 || k === this.#to + 1 ? half : 1;
    return true;
  }
}

export const sibilance = defineTreatment({
  kind: 'sibilance',
  title: 'Sibilance',
  sentence: 'Lowers a harsh s or sh in its own band, and leaves the rest of the voice.',
  parameters,
  remembers: true,
  needsNoiseProfile: false,
  conflict: ({ lowHz, highHz }) =>
    lowHz >= highHz ? `The band would go from ${lowHz} to ${highHz} Hz: lowHz must be below highHz.` : undefined,
  reconcile: (values, moved) => {
    if (values.lowHz < values.highHz) return values;
    return moved === 'lowHz'
      ? { ...values, highHz: Math.min(20000, values.lowHz + 500) }
      : { ...values, lowHz: Math.max(2000, values.highHz - 500) };
  },
  summary: (values) => `${values.lowHz}–${values.highHz} Hz · up to ${values.reductionDb} dB`,
  create: (context, values) => new Sibilance(context, values),
  live: {
    create: (context, values) => new LiveSibilance(context, values),
    note: 'With filters instead of a spectrum: all above the lower edge is lowered while an s lasts.',
  },
});
