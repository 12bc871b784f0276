import { bandPassSection } from '../../filters/sections.js';
import { LoweredBand } from '../../live/lowered-band.js';
import type { ProcessorContext } from '../../processor.js';
import { dbToPower, powerToDb } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import { LEAST_DBFS, type PlosiveSpecs, type PlosiveValues } from './settings.js';

/** Levels are evened out over so long: a burst begins within a few ms. */
const LEVEL_SECONDS = 0.006;
/** What the low end was before a burst, and what a voice's own is, is followed so slowly. */
const BEFORE_SECONDS = 0.35;
const OPENING_SECONDS = 0.002;
const CLOSING_SECONDS = 0.06;
/** As in the treatment: longer than this it is no burst. */
const LONGEST_SECONDS = 0.28;

/** The live form: a burst is taken from when it is noticed, its first milliseconds stay. Nothing is late. */
export class LivePlosives extends LoweredBand implements TreatmentProcessor<PlosiveSpecs> {
  readonly #rate: number;
  #values: PlosiveValues;
  #low = 0;
  #body = 0;
  /** The low end as it usually is. */
  #usual = 0;
  #downDb = 0;
  #burstSteps = 0;

  constructor(context: ProcessorContext, values: PlosiveValues) {
    super(context, { crossoverHz: values.limitHz, side: 'below', body: [bandPassSection(700, 0.35, context.sampleRateHz)] });
    this.#rate = context.sampleRateHz;
    this.#values = values;
  }

  setParameters(values: PlosiveValues): boolean {
    if (values.limitHz !== this.#values.limitHz) this.moveCrossover(values.limitHz);
    this.#values = values;
    return true;
  }

  protected forget(): void {
    this.#low = this.#body = this.#usual = this.#downDb = this.#burstSteps = 0;
  }

  protected reductionDb(low: number, body: number): number {
    const { reductionDb, sensitivityDb } = this.#values;
    const share = (seconds: number): number => 1 - Math.exp(-1 / LoweredBand.steps(seconds, this.#rate));
    this.#low += share(LEVEL_SECONDS) * (low - this.#low);
    this.#body += share(LEVEL_SECONDS) * (body - this.#body);
    const rise = dbToPower(sensitivityDb);
    const before = Math.max(this.#usual, dbToPower(LEAST_DBFS));
    const bursts = this.#low > before * rise && this.#low > this.#body * rise;
    this.#burstSteps = bursts ? this.#burstSteps + 1 : 0;
    const lasts = this.#burstSteps > LoweredBand.steps(LONGEST_SECONDS, this.#rate);
    // What rises and stays is a low voice or a lorry: it becomes the usual.
    if (!bursts || lasts) this.#usual += share(BEFORE_SECONDS) * (this.#low - this.#usual);
    const wanted = bursts && !lasts ? Math.min(reductionDb, powerToDb(this.#low / before)) : 0;
    this.#downDb += share(wanted > this.#downDb ? OPENING_SECONDS : CLOSING_SECONDS) * (wanted - this.#downDb);
    return this.#downDb;
  }
}
