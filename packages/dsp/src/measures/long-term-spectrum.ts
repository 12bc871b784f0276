import type { PlanarBlock } from '../processor.js';
import type { ThirdOctave } from '../survey/findings.js';
import { powerToDb } from '../units.js';
import { ThirdOctaveBank } from './third-octave-bank.js';

/** Of a spectrum counts what reaches so far down from where it is loud (95 % of the time it is softer): words, not the gaps. */
const LOUD_DB = 20;
/** How loud a step is, is judged above the rumble. */
const LOWEST_HZ = 100;
/** What is softer is digital silence. */
const SILENT_DB = -105;

/** Long-term spectrum of a stream in third octaves (IEC 61260-1), its channels together by power of their mean. Memory: 8.6 MB an hour. */
export class LongTermSpectrum {
  readonly #bank: ThirdOctaveBank;
  readonly #step: Float32Array;
  readonly #powers: Float64Array;
  readonly #steps: Float32Array[] = [];
  #fill = 0;

  constructor(sampleRateHz: number) {
    this.#bank = new ThirdOctaveBank(sampleRateHz);
    this.#step = new Float32Array(this.#bank.stepFrames);
    this.#powers = new Float64Array(this.#bank.hz.length);
  }

  /** Takes frames [from, to) of every channel. */
  process(block: PlanarBlock, from: number, to: number): void {
    const step = this.#step;
    for (let n = from; n < to; n++) {
      let sum = 0;
      for (const samples of block) sum += samples[n]!;
      step[this.#fill++] = sum / block.length;
      if (this.#fill === step.length) this.#endStep();
    }
  }

  /** Levels of the bands, dBFS (RMS), of what is loud; null of silence, and of less than a step. */
  finish(): ThirdOctave[] | null {
    const { hz } = this.#bank;
    const first = hz.findIndex((one) => one >= LOWEST_HZ);
    const levels = this.#steps.map((powers) => powers.subarray(first).reduce((sum, power) => sum + power, 0));
    const loud = [...levels].sort((a, b) => a - b)[Math.floor(0.95 * (levels.length - 1))] ?? 0;
    if (!(powerToDb(loud) > SILENT_DB)) return null;
    const counted = this.#steps.filter((_, i) => levels[i]! >= loud * 10 ** (-LOUD_DB / 10));
    return hz.map((one, band) => {
      const mean = counted.reduce((sum, powers) => sum + powers[band]!, 0) / counted.length;
      return { hz: one, dbfs: powerToDb(mean + 1e-16) };
    });
  }

  #endStep(): void {
    this.#fill = 0;
    this.#bank.step(this.#step, this.#powers);
    this.#steps.push(Float32Array.from(this.#powers));
  }
}
