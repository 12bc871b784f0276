import { RealFft } from '../kernels/real-fft.js';
import type { KernelModule } from '../kernels/instance.js';
import { frameSizeFor, hannWindow } from '../spectrum/window.js';
import { powerToDb } from '../units.js';

export const BANDS = 24;
const LOWEST_HZ = 80;
const HIGHEST_HZ = 12_000;
/** Nothing softer counts, against full scale of a band. */
const FLOOR_DB = -90;

/** What a bed sounds like over time: levels in bands, and where it sets in anew. */
export interface BedFeatures {
  readonly hopFrames: number;
  readonly count: number;
  /** count × BANDS, dB. */
  readonly levels: Float32Array;
  /** Spectral flux: by how much the bands rise from a hop to the next, dB in the mean. */
  readonly flux: Float32Array;
}

/** Levels in bands and flux of a mono sound, every half frame of 43 ms; a frame is centred on its hop. */
export function bedFeatures(kernels: KernelModule, mono: Float32Array, sampleRateHz: number): BedFeatures {
  const size = frameSizeFor(sampleRateHz);
  const hopFrames = size / 2;
  const fft = new RealFft(kernels, size);
  const window = hannWindow(size);
  const highest = Math.min(HIGHEST_HZ, 0.45 * sampleRateHz);
  const edges = Array.from({ length: BANDS + 1 }, (_, b) =>
    Math.max(b + 1, Math.round((LOWEST_HZ * (highest / LOWEST_HZ) ** (b / BANDS) * size) / sampleRateHz)),
  );
  const count = Math.floor(mono.length / hopFrames);
  const bands = BANDS;
  const [lowestDb, { frame, re, im }] = [FLOOR_DB, fft];
  const levels = new Float32Array(count * bands);
  const flux = new Float32Array(count);
  for (let i = 0; i < count; i++) {
    const start = i * hopFrames - hopFrames;
    for (let n = 0; n < size; n++) frame[n] = (mono[start + n] ?? 0) * window[n]!;
    fft.forward();
    let rise = 0;
    for (let b = 0; b < bands; b++) {
      let power = 0;
      for (let k = edges[b]!; k < Math.max(edges[b]! + 1, edges[b + 1]!); k++) power += re[k]! * re[k]! + im[k]! * im[k]!;
      const db = Math.max(lowestDb, powerToDb(power / size ** 2 + 1e-20));
      levels[i * bands + b] = db;
      if (i > 0) rise += Math.max(0, db - levels[(i - 1) * bands + b]!);
    }
    flux[i] = rise / bands;
  }
  return { hopFrames, count, levels, flux };
}

/** Hops at which a bed sets in anew: where the flux is highest around and stands out; where too little does, places at even distances. */
export function onsetsOf({ flux, count, hopFrames }: BedFeatures, sampleRateHz: number, most: number): number[] {
  const sorted = Float32Array.from(flux).sort();
  const usual = sorted[sorted.length >> 1] ?? 0;
  const found: number[] = [];
  for (let i = 2; i < count - 2; i++) {
    const here = flux[i]!;
    if (here > 2 * usual + 0.5 && here >= flux[i - 1]! && here > flux[i + 1]! && here >= flux[i - 2]! && here >= flux[i + 2]!)
      found.push(i);
  }
  const perSecond = sampleRateHz / hopFrames;
  if (found.length < count / perSecond / 2) for (let i = 2; i < count - 2; i += Math.max(1, Math.round(perSecond / 4))) found.push(i);
  const strongest = [...new Set(found)].sort((a, b) => flux[b]! - flux[a]!).slice(0, most);
  return strongest.sort((a, b) => a - b);
}

const BEAT_SECONDS = [0.3, 1.6] as const;
const BEATS = 8;
/** Beats that agree less than this, in the mean of eight, are none. */
const LEAST_BEAT = 0.12;

/** Length of a beat in hops, where the flux repeats itself: the period whose first eight multiples agree best. null without one. */
export function beatOf({ flux, count, hopFrames }: BedFeatures, sampleRateHz: number): number | null {
  const mean = flux.reduce((sum, x) => sum + x, 0) / Math.max(1, count);
  const centred = flux.map((x) => x - mean);
  const perSecond = sampleRateHz / hopFrames;
  const most = Math.min(count - 1, Math.ceil(BEATS * BEAT_SECONDS[1] * perSecond) + 1);
  const agree = new Float64Array(most + 1);
  for (let lag = 0; lag <= most; lag++) {
    let sum = 0;
    for (let i = lag; i < count; i++) sum += centred[i]! * centred[i - lag]!;
    agree[lag] = sum / Math.max(1, count - lag);
  }
  if (!(agree[0]! > 0)) return null;
  const agreement = (hops: number): number => {
    let sum = 0;
    for (let k = 1; k <= BEATS; k++) {
      const lag = k * hops;
      const low = Math.floor(lag);
      if (low + 1 > most) break;
      sum += agree[low]! + (agree[low + 1]! - agree[low]!) * (lag - low);
    }
    return sum / BEATS / agree[0]!;
  };
  let best = { hops: 0, agrees: 0 };
  const look = (from: number, to: number, step: number, more: number): void => {
    for (let hops = from; hops < to; hops += step) {
      const agrees = agreement(hops);
      if (agrees > more * best.agrees) best = { hops, agrees };
    }
  };
  // Of two that agree alike the shorter one; then finely around it.
  look(BEAT_SECONDS[0] * perSecond, BEAT_SECONDS[1] * perSecond, 0.05, 1.1);
  look(0.97 * best.hops, 1.03 * best.hops, 0.01, 1);
  return best.agrees > LEAST_BEAT ? best.hops : null;
}
