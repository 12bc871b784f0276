import { Cascade } from '../filters/cascade.js';
import { highPassSection, lowPassSection } from '../filters/sections.js';
import { KernelInstance, type KernelModule } from '../kernels/instance.js';
import { bandPower } from '../spectrum/spectral-processor.js';
import { frameSizeFor, hannWindow } from '../spectrum/window.js';
import { powerToDb } from '../units.js';
import { Growing } from './growing.js';

/** Bands whose level is kept of every frame. */
const BANDS = {
  /** The body of a voice. */
  body: [150, 3500],
  mid: [500, 3500],
  /** Where an s lives. */
  sibilant: [4500, 10000],
} as const;
/** Frames are sorted by their level into classes of 1 dB; each has its mean spectrum. */
const LOWEST_CLASS_DB = -110;
const CLASSES = 112;
/** The slow copy of the sound, for fundamentals and lines below 1.6 kHz. */
const SLOW_RATE_HZ = 4000;
const LOWEST_VOICE_HZ = 60;
const HIGHEST_VOICE_HZ = 420;
/** Up to this lag of the slow copy (130 Hz) every one is looked at. */
const FINE_LAGS = 30;

/**
 * What is kept of one channel while it streams by: a few numbers a frame (every half frame of 43 ms), and mean
 * spectra by level, so that quiet and loud frames can be told apart afterwards without the sound.
 */
export class Features {
  readonly frameSeconds: number;
  readonly size: number;
  readonly binHz: number;
  readonly body = new Growing();
  readonly mid = new Growing();
  readonly sibilant = new Growing();
  /** Body and sibilants together, an s counting fully: by this frames are sorted, so that no consonant passes for quiet. */
  readonly level = new Growing();
  /** Normalised autocorrelation at the period found, 0 … 1, and that period's frequency. */
  readonly voicing = new Growing();
  readonly fundamentalHz = new Growing();
  readonly #history: Float32Array;
  readonly #power: Float32Array;
  readonly #counts = new Float64Array(CLASSES);
  /** By class: summed power, then the sum of X(t) conj X(t - 1): its phase says where in its bin a steady line stands. */
  readonly #sums: Float32Array;
  readonly #stride: number;
  readonly #analyse: () => void;
  readonly #add: (index: number) => void;
  readonly #slowBy: number;
  readonly #slowFilter: Cascade;
  readonly #slowBlock: Float32Array;
  readonly #slow: Float32Array;
  readonly #correlation: Float64Array;
  readonly #fresh: Float32Array;
  readonly #withoutRumble: Cascade;
  readonly #onSlow: (x: number) => void;
  #slowPhase = 0;
  #fill = 0;

  /** @param onSlow takes every sample of the copy at about 4 kHz (`slowRateHz`). */
  constructor(
    kernels: KernelModule,
    readonly sampleRateHz: number,
    onSlow: (x: number) => void,
  ) {
    this.size = frameSizeFor(sampleRateHz);
    this.binHz = sampleRateHz / this.size;
    this.frameSeconds = this.size / 2 / sampleRateHz;
    const bins = this.size / 2 + 1;
    // Sum of w² is 3/8 size under a Hann window: mean square of the frame from the bins of one side.
    const kernel = new KernelInstance(kernels, 'classSetUp', this.size, CLASSES, 2 / (this.size * this.size * 0.375));
    this.#stride = (bins + 7) & ~3;
    this.#history = kernel.floats('classHistory', this.size);
    this.#power = kernel.floats('classPower', bins);
    this.#sums = kernel.floats('classSums', CLASSES * 3 * this.#stride);
    this.#analyse = kernel.call('classAnalyse');
    this.#add = kernel.call('classAdd');
    kernel.floats('classWindow', this.size).set(hannWindow(this.size));
    this.#slowBy = Math.max(1, Math.round(sampleRateHz / SLOW_RATE_HZ));
    this.#slowFilter = new Cascade(
      kernels,
      [0.51, 0.6, 0.9, 2.56].map((q) => lowPassSection(Math.min(1600, 0.4 * this.slowRateHz), q, sampleRateHz)),
    );
    this.#slowBlock = new Float32Array(this.size / 2);
    this.#slow = new Float32Array(Math.round(0.06 * this.slowRateHz));
    this.#fresh = new Float32Array(this.size);
    this.#withoutRumble = new Cascade(
      kernels,
      [0.54, 1.31].map((q) => highPassSection(75, q, this.slowRateHz)),
    );
    this.#correlation = new Float64Array(this.#slow.length + 2);
    this.#onSlow = onSlow;
  }

  get slowRateHz(): number {
    return this.sampleRateHz / this.#slowBy;
  }

  process(x: Float32Array, frames: number): void {
    const hop = this.size / 2;
    for (let n = 0; n < frames;) {
      const count = Math.min(frames - n, hop - this.#fill);
      this.#history.set(x.subarray(n, n + count), hop + this.#fill);
      this.#fill += count;
      n += count;
      if (this.#fill < hop) continue;
      this.#fill = 0;
      this.#frame();
    }
  }

  #frame(): void {
    const power = this.#power;
    this.#slowBlock.set(this.#history.subarray(this.size / 2));
    this.#analyse();
    const level = ([low, high]: readonly [number, number]): number =>
      powerToDb(
        bandPower(power, Math.max(1, Math.round(low / this.binHz)), Math.min(power.length, Math.round(high / this.binHz) + 1)) + 1e-13,
      );
    const body = level(BANDS.body);
    const sibilant = level(BANDS.sibilant);
    const both = powerToDb(10 ** (body / 10) + 4 * 10 ** (sibilant / 10));
    this.body.push(body);
    this.mid.push(level(BANDS.mid));
    this.sibilant.push(sibilant);
    this.level.push(both);
    const into = Math.max(0, Math.min(CLASSES - 1, Math.round(both - LOWEST_CLASS_DB)));
    this.#counts[into]!++;
    this.#add(into);
    this.#listenSlowly();
  }

  /** Fundamental and voicing of the newest 60 ms of the slow copy. */
  #listenSlowly(): void {
    const hop = this.size / 2;
    this.#slowFilter.process(this.#slowBlock, 0, hop);
    const slow = this.#slow;
    const block = this.#slowBlock;
    const fresh = Math.ceil((hop - this.#slowPhase) / this.#slowBy);
    slow.copyWithin(0, fresh);
    let count = 0;
    for (; this.#slowPhase < hop; this.#slowPhase += this.#slowBy) {
      const x = block[this.#slowPhase]!;
      this.#onSlow(x);
      this.#fresh[count++] = x;
    }
    // Rumble would be taken for a voice of its own pitch.
    this.#withoutRumble.process(this.#fresh, 0, count);
    slow.set(this.#fresh.subarray(Math.max(0, count - slow.length), count), slow.length - Math.min(count, slow.length));
    this.#slowPhase -= hop;
    this.#pushFundamental();
  }

  #pushFundamental(): void {
    const slow = this.#slow;
    const rate = this.slowRateHz;
    const longest = Math.min(Math.ceil(rate / LOWEST_VOICE_HZ), slow.length - 40);
    const shortest = Math.floor(rate / HIGHEST_VOICE_HZ);
    let best = 0;
    let bestLag = 0;
    let here = 1e-12;
    for (let n = longest; n < slow.length; n++) here += slow[n]! * slow[n]!;
    let there = 1e-12;
    for (let n = longest - shortest; n < slow.length - shortest; n++) there += slow[n]! * slow[n]!;
    const at = this.#correlation;
    const end = slow.length;
    // What is nearly silent has no voice: its correlation would be that of rounding.
    for (let lag = shortest; here > 1e-9 && lag <= longest; lag++) {
      // The window of the past moves back by one with every lag.
      if (lag > shortest) {
        const leaving = slow[end - lag]!;
        const coming = longest - lag < 0 ? 0 : slow[longest - lag]!;
        there = Math.max(1e-12, there + coming * coming - leaving * leaving);
      }
      // Long periods are looked at in steps of two; beside the best one the step between is filled in afterwards.
      at[lag] = lag > FINE_LAGS && lag % 2 === 1 ? 0 : this.#correlate(lag, longest, here * there);
      // A longer period must be clearly better: twice the period fits just as well.
      if (at[lag]! > best * (lag > 1.7 * bestLag ? 1.06 : 1)) {
        best = at[lag]!;
        bestLag = lag;
      }
    }
    if (bestLag > FINE_LAGS)
      for (const lag of [bestLag - 1, bestLag + 1]) {
        if (lag > longest) continue;
        at[lag] = this.#correlate(lag, longest, here * there);
        if (at[lag]! > best) {
          best = at[lag]!;
          bestLag = lag;
        }
      }
    const before = at[bestLag - 1] ?? 0;
    const after = at[bestLag + 1] ?? 0;
    const bend = before - 2 * best + after;
    const shift = bend < 0 ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend))) : 0;
    this.voicing.push(here < 1e-9 ? 0 : Math.max(0, best));
    this.fundamentalHz.push(bestLag === 0 ? 0 : rate / (bestLag + shift));
  }

  /** Normalised correlation at a lag, from every second sample: enough to tell one period from another. */
  #correlate(lag: number, longest: number, energies: number): number {
    const slow = this.#slow;
    const end = slow.length;
    let sum = 0;
    for (let n = longest; n < end; n += 2) sum += slow[n]! * slow[n - lag]!;
    return (2 * sum) / Math.sqrt(energies);
  }

  /** Mean power spectrum of the frames whose level lies between two (mean square a bin); null where there are none. */
  meanSpectrum(fromDb: number, toDb: number): { readonly power: Float64Array; readonly frames: number } | null {
    const power = new Float64Array(this.size / 2 + 1);
    const frames = this.#gather(fromDb, toDb, (i) => {
      const from = 3 * i * this.#stride;
      for (let k = 0; k < power.length; k++) power[k]! += this.#sums[from + k]!;
    });
    if (frames === 0) return null;
    for (let k = 0; k < power.length; k++) power[k]! /= frames;
    return { power, frames };
  }

  /** Frequency of a steady line in a bin, from the phase by which it moves on from frame to frame. */
  lineHz(bin: number, fromDb: number, toDb: number): number {
    let re = 0;
    let im = 0;
    this.#gather(fromDb, toDb, (i) => {
      re += this.#sums[(3 * i + 1) * this.#stride + bin]!;
      im += this.#sums[(3 * i + 2) * this.#stride + bin]!;
    });
    // Over half a frame a bin's own frequency moves on by πk.
    const off = Math.atan2(im, re) - Math.PI * bin;
    const wrapped = off - 2 * Math.PI * Math.round(off / (2 * Math.PI));
    return (bin + wrapped / Math.PI) * this.binHz;
  }

  #gather(fromDb: number, toDb: number, take: (index: number) => void): number {
    let frames = 0;
    for (let i = 0; i < CLASSES; i++) {
      const level = i + LOWEST_CLASS_DB;
      if (this.#counts[i] === 0 || level < fromDb || level > toDb) continue;
      frames += this.#counts[i]!;
      take(i);
    }
    return frames;
  }
}
