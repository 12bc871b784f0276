import type { Memory } from '../../memory.js';
import type { ProcessorContext, TreatmentEvent } from '../../processor.js';
import { bandPower, SpectralProcessor } from '../../spectrum/spectral-processor.js';
import { frameSizeFor } from '../../spectrum/window.js';
import { dbToGain, dbToPower, powerToDb } from '../../units.js';
import { defineTreatment, type TreatmentProcessor } from '../definition.js';
import { LivePlosives } from './live-plosives.js';
import { LEAST_DBFS, parameters, type PlosiveSpecs, type PlosiveValues } from './settings.js';

/** A burst is air, not tone: this long at the most, or it is a low voice, a lorry, a door. Common practice, no source. */
const LONGEST_SECONDS = 0.28;
/** Before a burst the low end is looked at for so long. */
const BEFORE_SECONDS = 0.12;
/** The voice's own body lies between the limit and here; a burst has little of it for its size. */
const BODY_TO_HZ = 2500;
/** A low voice has its next harmonics up to here, as strong as its lowest; a burst falls towards them. */
const NEAR_TO_HZ = 320;
/** No voice reaches below here; air does. */
const DEEP_TO_HZ = 80;
/** How slowly the voice's own low end is followed, in seconds of talk, and what counts as talk. */
const VOICE_SECONDS = 2;
const TALK_DBFS = -45;
const LEAST_POWER = dbToPower(LEAST_DBFS);
const TALK_POWER = dbToPower(TALK_DBFS);

/**
 * Bursts of air on p, t, k, b: the low end rises at once, above the body of the voice and above what it was. The
 * bins below the limit are lowered to what they were before, in the frames of the burst and nowhere else.
 */
class Plosives extends SpectralProcessor implements TreatmentProcessor<PlosiveSpecs> {
  readonly #onEvent: ((event: TreatmentEvent) => void) | undefined;
  readonly #startFrame: number;
  readonly #bodyTo: number;
  readonly #nearTo: number;
  readonly #deepTo: number;
  readonly #voiceShare: number;
  readonly #beforeFrames: number;
  readonly #longestFrames: number;
  /** Power of the low end and gain that each of the last frames wants, as rings. */
  readonly #low: Float64Array;
  readonly #wanted: Float64Array;
  readonly #scale: number;
  #limitBin = 0;
  #reductionDb = 0;
  #rise = 0;
  #burstStart = -1;
  #burstFrom = 0;
  #burstDepthDb = 0;
  #burstPower = 0;
  /** Power of the low end while somebody talks, and for how many frames it was followed. */
  #voiceLow = 0;
  #voiceFrames = 0;

  constructor(context: ProcessorContext, values: PlosiveValues) {
    const size = frameSizeFor(context.sampleRateHz);
    super(context, size, 3);
    this.#onEvent = context.onEvent;
    this.#startFrame = context.startFrame ?? 0;
    this.#bodyTo = Math.round(BODY_TO_HZ / this.binHz);
    this.#deepTo = Math.max(1, Math.round(DEEP_TO_HZ / this.binHz));
    this.#nearTo = Math.round(NEAR_TO_HZ / this.binHz);
    this.#voiceShare = this.hop / (VOICE_SECONDS * context.sampleRateHz);
    this.#beforeFrames = Math.max(3, Math.round((BEFORE_SECONDS * context.sampleRateHz) / this.hop));
    this.#longestFrames = Math.round((LONGEST_SECONDS * context.sampleRateHz) / this.hop);
    this.#low = new Float64Array(64);
    this.#wanted = new Float64Array(64).fill(1);
    // Sum of w² is size / 4 under √(Hann / 2): mean square of the frame from the bins of one side.
    this.#scale = 2 / (size * (size / 4));
    this.setParameters(values);
  }

  setParameters(values: PlosiveValues): boolean {
    this.#limitBin = Math.max(2, Math.round(values.limitHz / this.binHz));
    this.#reductionDb = values.reductionDb;
    this.#rise = dbToPower(values.sensitivityDb);
    return true;
  }

  protected forget(): void {
    this.#low.fill(0);
    this.#wanted.fill(1);
    this.#burstStart = -1;
    this.#voiceLow = 0;
    this.#voiceFrames = 0;
  }

  goOnAt(frame: number): void {
    this.countFrom(frame);
  }

  remember(memory: Memory): void {
    this.#voiceLow = memory.number(this.#voiceLow);
    this.#voiceFrames = memory.number(this.#voiceFrames);
    this.#burstStart = memory.number(this.#burstStart);
    this.#burstFrom = memory.number(this.#burstFrom);
    this.#burstDepthDb = memory.number(this.#burstDepthDb);
    this.#burstPower = memory.number(this.#burstPower);
    // By the places of a ring, which are the same wherever the stream went on.
    for (let i = 0; i < this.#wanted.length; i++) this.#wanted[i] = memory.number(this.#wanted[i]!);
  }

  protected frameArrived(power: Float32Array, index: number): void {
    const low = bandPower(power, 1, this.#limitBin + 1) * this.#scale;
    const body = bandPower(power, this.#limitBin + 1, this.#bodyTo) * this.#scale;
    const near = bandPower(power, this.#limitBin + 1, this.#nearTo) * this.#scale;
    const deep = bandPower(power, 1, this.#deepTo + 1) * this.#scale;
    this.#low[index % 64] = low;
    this.#wanted[index % 64] = 1;
    const before = this.#burstStart >= 0 ? this.#burstFrom : this.#quietBefore(index);
    const inBurst = this.#burstStart >= 0;
    const isBurst =
      index > this.#beforeFrames &&
      low > LEAST_POWER &&
      low > before * this.#rise &&
      low > this.#voiceLow * (inBurst ? 1 : this.#rise / 2) &&
      low > body * (inBurst ? 0.25 : 0.7) &&
      low > near * (inBurst ? 0.5 : 2) &&
      (inBurst || deep > 0.2 * (low + near));
    if (!isBurst && !inBurst && body > TALK_POWER)
      this.#voiceLow += Math.max(this.#voiceShare, 1 / ++this.#voiceFrames) * (low - this.#voiceLow);
    if (isBurst && this.#burstStart < 0) {
      this.#burstStart = index;
      this.#burstFrom = before;
      this.#burstDepthDb = 0;
      this.#burstPower = 0;
      // What led up to it rose already: the windows reach over its onset.
      for (let i = 1; i <= this.lookAhead && index >= i; i++) this.#want(index - i, this.#low[(index - i) % 64]!);
    }
    if (isBurst && this.#burstStart >= 0 && index - this.#burstStart > this.#longestFrames) {
      // It goes on too long to be a burst: from here on it is left alone.
      this.#burstFrom = Infinity;
    }
    if (isBurst) this.#burstPower = Math.max(this.#burstPower, low);
    if (isBurst) this.#want(index, low);
    else if (this.#burstStart >= 0) this.#endBurst(index, low);
  }

  /** The lowest that the low end was in the time just before; the last frames lead up to the burst and do not count. */
  #quietBefore(index: number): number {
    let sum = 0;
    let count = 0;
    for (let i = 4; i < 4 + this.#beforeFrames && index - i >= 0; i++, count++) sum += this.#low[(index - i) % 64]!;
    // Never nothing: after digital silence every sound would be a burst.
    return Math.max(count === 0 ? 0 : sum / count, dbToPower(LEAST_DBFS - 14));
  }

  #want(index: number, low: number): void {
    const down = Math.min(this.#reductionDb, Math.max(0, powerToDb(low / this.#burstFrom)));
    this.#wanted[index % 64] = dbToGain(-down);
    this.#burstDepthDb = Math.max(this.#burstDepthDb, down);
  }

  #endBurst(index: number, low: number): void {
    this.#want(index, low);
    if (this.#burstFrom !== Infinity && this.#burstDepthDb > 0)
      this.#onEvent?.({
        kind: 'plosives',
        channel: 0,
        amountDb: this.#burstDepthDb,
        levelDbfs: powerToDb(this.#burstPower),
        startFrame: this.#startFrame + (this.#burstStart + 1) * this.hop - this.size / 2,
        endFrame: this.#startFrame + (index + 1) * this.hop - this.size / 2,
      });
    this.#burstStart = -1;
  }

  protected gainsOf(gain: Float32Array, index: number): boolean {
    const wanted = this.#wanted[index % 64]!;
    if (wanted === 1) return false;
    // Two bins of slope above the limit, so that the edge does not ring.
    for (let k = 0; k < this.bins; k++)
      gain[k] = k <= this.#limitBin ? wanted : k <= this.#limitBin + 2 ? wanted ** (1 - (k - this.#limitBin) / 3) : 1;
    return true;
  }
}

export const plosives = defineTreatment({
  kind: 'plosives',
  title: 'Plosives',
  sentence: 'Lowers bursts of air on p, t, k and b, below a limit and only while they last.',
  parameters,
  remembers: true,
  needsNoiseProfile: false,
  summary: (values) => `below ${values.limitHz} Hz · up to ${values.reductionDb} dB`,
  create: (context, values) => new Plosives(context, values),
  live: {
    create: (context, values) => new LivePlosives(context, values),
    note: 'A burst is lowered from when it is noticed: its first milliseconds are heard.',
  },
});
