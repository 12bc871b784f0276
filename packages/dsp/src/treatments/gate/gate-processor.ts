import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { dbToGain, dbToPower, msToFrames } from '../../units.js';
import type { TreatmentProcessor } from '../definition.js';
import { MAX_LOOK_AHEAD_MS, type GateSpecs, type GateValues } from './gate.js';

/** Averaging time of the level detector: short against a consonant, long against a period of a low voice. */
const DETECTOR_MS = 6;

/**
 * Gate with hysteresis. The level is the mean square of the louder channel over about 6 ms; all channels
 * get the same gain, so that the stereo image stands still. The gain moves in equal dB steps: attack and
 * release are the times for the whole range.
 */
export class GateProcessor implements TreatmentProcessor<GateSpecs> {
  readonly latencyFrames: number;
  readonly #delay: Float32Array[];
  readonly #sampleRateHz: number;
  readonly #detectorShare: number;
  #at = 0;
  #power = 0;
  #open = false;
  #heldFrames = 0;
  #gain = 1;

  #openPower = 0;
  #closePower = 0;
  #floorGain = 1;
  #rise = 1;
  #fall = 1;
  #holdFrames = 0;
  #detectorDelayFrames = 0;

  constructor(context: ProcessorContext, values: GateValues) {
    this.#sampleRateHz = context.sampleRateHz;
    this.latencyFrames = msToFrames(MAX_LOOK_AHEAD_MS, context.sampleRateHz);
    this.#delay = Array.from({ length: context.channels }, () => new Float32Array(this.latencyFrames + 1));
    this.#detectorShare = 1 - Math.exp(-1000 / (DETECTOR_MS * context.sampleRateHz));
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: GateValues): boolean {
    this.#openPower = dbToPower(values.openDb);
    this.#closePower = dbToPower(values.closeDb);
    this.#floorGain = dbToGain(-values.rangeDb);
    this.#rise = dbToGain(values.rangeDb / Math.max(1, msToFrames(values.attackMs, this.#sampleRateHz)));
    this.#fall = dbToGain(-values.rangeDb / Math.max(1, msToFrames(values.releaseMs, this.#sampleRateHz)));
    this.#holdFrames = msToFrames(values.holdMs, this.#sampleRateHz);
    this.#detectorDelayFrames = this.latencyFrames - msToFrames(values.lookAheadMs, this.#sampleRateHz);
    if (values.rangeDb === 0) this.#rise = this.#fall = 1.001;
    return true;
  }

  reset(): void {
    for (const line of this.#delay) line.fill(0);
    this.#at = 0;
    this.#power = 0;
    this.#open = false;
    this.#heldFrames = 0;
    this.#gain = this.#floorGain;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    const lines = this.#delay;
    const length = this.latencyFrames + 1;
    for (let n = 0; n < frames; n++) {
      const writeAt = this.#at;
      for (let c = 0; c < lines.length; c++) lines[c]![writeAt] = input[c]![n]!;
      let detectAt = writeAt - this.#detectorDelayFrames;
      if (detectAt < 0) detectAt += length;
      const readAt = writeAt + 1 === length ? 0 : writeAt + 1;
      const gain = this.#nextGain(detectAt);
      for (let c = 0; c < lines.length; c++) output[c]![n] = lines[c]![readAt]! * gain;
      this.#at = readAt;
    }
  }

  #nextGain(detectAt: number): number {
    let square = 0;
    for (let c = 0; c < this.#delay.length; c++) {
      const x = this.#delay[c]![detectAt]!;
      if (x * x > square) square = x * x;
    }
    this.#power += this.#detectorShare * (square - this.#power) + 1e-30;
    if (this.#power >= this.#openPower) this.#open = true;
    if (this.#open) {
      if (this.#power >= this.#closePower) this.#heldFrames = this.#holdFrames;
      else if (this.#heldFrames > 0) this.#heldFrames--;
      else this.#open = false;
    }
    const target = this.#open ? 1 : this.#floorGain;
    if (this.#gain < target) this.#gain = Math.min(target, this.#gain * this.#rise);
    else if (this.#gain > target) this.#gain = Math.max(target, this.#gain * this.#fall);
    return this.#gain;
  }
}
