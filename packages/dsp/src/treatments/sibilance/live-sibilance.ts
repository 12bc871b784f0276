import { bandPassSection } from '../../filters/sections.js';
import { LoweredBand } from '../../live/lowered-band.js';
import type { ProcessorContext } from '../../processor.js';
import { dbToPower, powerToDb } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import { BODY_HZ, BODY_SECONDS, TALK_DBFS, type SibilanceSpecs, type SibilanceValues } from './settings.js';

/** The level of the band is evened out over so long: an s is noise. */
const BAND_SECONDS = 0.004;
/** An s goes on, a click does not: lowered over so long, not at once. */
const OPENING_SECONDS = 0.002;

const crossoverOf = ({ lowHz }: SibilanceValues, sampleRateHz: number): number => Math.min(lowHz, 0.4 * sampleRateHz);

/** The live form: the same rule, on filters instead of a short-time spectrum. Nothing is late. */
export class LiveSibilance extends LoweredBand implements TreatmentProcessor<SibilanceSpecs> {
  readonly #rate: number;
  #values: SibilanceValues;
  #band = 0;
  #body = 0;
  #bodyNow = 0;
  #downDb = 0;

  constructor(context: ProcessorContext, values: SibilanceValues) {
    super(context, {
      crossoverHz: crossoverOf(values, context.sampleRateHz),
      side: 'above',
      body: [bandPassSection(Math.sqrt(BODY_HZ[0] * BODY_HZ[1]), 0.28, context.sampleRateHz)],
    });
    this.#rate = context.sampleRateHz;
    this.#values = values;
  }

  setParameters(values: SibilanceValues): boolean {
    if (values.lowHz !== this.#values.lowHz) this.moveCrossover(crossoverOf(values, this.#rate));
    this.#values = values;
    return true;
  }

  protected forget(): void {
    this.#band = this.#body = this.#bodyNow = this.#downDb = 0;
  }

  protected reductionDb(band: number, body: number): number {
    const { thresholdDb, reductionDb, ratio, releaseMs } = this.#values;
    const share = (seconds: number): number => 1 - Math.exp(-1 / LoweredBand.steps(seconds, this.#rate));
    this.#band += share(BAND_SECONDS) * (band - this.#band);
    this.#bodyNow += share(0.02) * (body - this.#bodyNow);
    if (this.#bodyNow > dbToPower(TALK_DBFS) && this.#bodyNow > this.#band)
      this.#body += (this.#body === 0 ? 1 : share(BODY_SECONDS)) * (this.#bodyNow - this.#body);
    const overDb = this.#body === 0 ? 0 : powerToDb(this.#band / this.#body + 1e-12) - thresholdDb;
    const wanted = Math.min(reductionDb, Math.max(0, overDb) * (1 - 1 / ratio));
    this.#downDb += share(wanted > this.#downDb ? OPENING_SECONDS : releaseMs / 1000) * (wanted - this.#downDb);
    return this.#downDb;
  }
}
