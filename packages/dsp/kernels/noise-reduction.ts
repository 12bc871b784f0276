// One frame of log-MMSE noise reduction (Ephraim & Malah 1985, eq. 20) with the decision-directed a-priori
// SNR (Ephraim & Malah 1984, eq. 51). exp(E1(v) / 2) comes from a table that TypeScript fills, indexed by
// the exponent and the top seven mantissa bits of v.
import { allocate } from './memory';
import { binIm, binRe, fftSetUp, forward, frame, inverse } from './fft';

const TABLE_LOW_BITS: i32 = 0x35800000; // 2^-20
const TABLE_STEPS: i32 = 25 << 7; // up to 2^5

let bins: i32 = 0;
let size: i32 = 0;
let smoothed: usize = 0;
/** Zeros on either side of rawGain: the largest reach in bins, and a vector. */
const EDGE_BYTES: i32 = 32 << 2;

export let window: usize = 0;
/** The last `size` samples; the newest hop is filled from outside before each reduceHop. */
export let history: usize = 0;
/** Sum of the windowed frames. */
export let overlap: usize = 0;
/** exp(E1(v) / 2) at the 3201 grid points. */
export let table: usize = 0;
/** 1 / noise power per bin, the threshold included. */
export let inverseNoise: usize = 0;
/** Clean-speech power estimate of the previous frame, per bin. */
export let speechPower: usize = 0;
/** Gain before smoothing, and the smoothed gain that is applied, per bin. */
export let rawGain: usize = 0;
export let gain: usize = 0;

export function noiseReductionSetUp(fftSize: i32): void {
  fftSetUp(fftSize);
  size = fftSize;
  bins = (fftSize >> 1) + 1;
  const bytes = (bins << 2) + 16;
  window = allocate(fftSize << 2);
  history = allocate(fftSize << 2);
  overlap = allocate(fftSize << 2);
  table = allocate((TABLE_STEPS + 2) << 2);
  inverseNoise = allocate(bytes);
  speechPower = allocate(bytes);
  rawGain = allocate(bytes + 2 * EDGE_BYTES) + <usize>EDGE_BYTES;
  gain = allocate(bytes);
  smoothed = allocate(bytes + 16);
}

// @ts-ignore: decorator
@inline
function tablePair(index: i32): v128 {
  return v128.load64_zero(table + (<usize>index << 2));
}

/** exp(E1(v) / 2) of four values, clamped to the table; from 2^5 on it is 1. */
// @ts-ignore: decorator
@inline
function halfE1Exp(v: v128): v128 {
  const clamped = f32x4.min(f32x4.max(v, f32x4.splat(<f32>9.5367431640625e-7)), f32x4.splat(<f32>31.9999));
  const bits = i32x4.sub(clamped, i32x4.splat(TABLE_LOW_BITS));
  const index = i32x4.shr_u(bits, 16);
  const fraction = f32x4.mul(f32x4.convert_i32x4_s(v128.and(bits, i32x4.splat(0xffff))), f32x4.splat(<f32>(1.0 / 65536.0)));
  const p0 = tablePair(i32x4.extract_lane(index, 0));
  const p1 = tablePair(i32x4.extract_lane(index, 1));
  const p2 = tablePair(i32x4.extract_lane(index, 2));
  const p3 = tablePair(i32x4.extract_lane(index, 3));
  const ab = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5);
  const cd = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5);
  const low = v128.shuffle<f32>(ab, cd, 0, 1, 4, 5);
  const high = v128.shuffle<f32>(ab, cd, 2, 3, 6, 7);
  return f32x4.add(low, f32x4.mul(f32x4.sub(high, low), fraction));
}

/** Gains of the frame in `bins`. memory: decision-directed weight; minSnr: floor of the a-priori SNR; floor: lowest gain. */
function estimateGains(memory: f32, minSnr: f32, floor: f32): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const keep = f32x4.splat(memory);
  const fresh = f32x4.splat(1 - memory);
  const lowest = f32x4.splat(minSnr);
  const least = f32x4.splat(floor);
  const end = <usize>(bins << 2);
  for (let o: usize = 0; o < end; o += 16) {
    const re = v128.load(binRe + o);
    const im = v128.load(binIm + o);
    const power = f32x4.add(f32x4.mul(re, re), f32x4.mul(im, im));
    const inv = v128.load(inverseNoise + o);
    const post = f32x4.mul(power, inv);
    const excess = f32x4.max(zero, f32x4.sub(post, one));
    const past = f32x4.mul(v128.load(speechPower + o), inv);
    const prior = f32x4.max(lowest, f32x4.add(f32x4.mul(keep, past), f32x4.mul(fresh, excess)));
    const wiener = f32x4.div(prior, f32x4.add(one, prior));
    const v = f32x4.mul(wiener, post);
    const g = f32x4.min(one, f32x4.mul(wiener, halfE1Exp(v)));
    v128.store(speechPower + o, f32x4.mul(f32x4.mul(g, g), power));
    v128.store(rawGain + o, f32x4.max(least, g));
  }
}

/**
 * Moving average of rawGain over 2 * reach + 1 bins, cut at the edges; result in rawGain. rawGain has zeros on
 * either side, so that the sum needs no cases; only the number of bins in it differs near the edges.
 */
function smoothOverFrequency(reach: i32): void {
  const end = <usize>(bins << 2);
  const span = <usize>(reach << 2);
  const share = f32x4.splat(<f32>(1.0 / <f64>(2 * reach + 1)));
  for (let o: usize = end; o < end + 16; o += 4) store<f32>(rawGain + o, 0);
  for (let o: usize = 0; o < end; o += 16) {
    let sum = f32x4.splat(0);
    for (let d: usize = 0; d <= 2 * span; d += 4) sum = f32x4.add(sum, v128.load(rawGain + o - span + d));
    v128.store(smoothed + o, f32x4.mul(sum, share));
  }
  for (let k = 0; k < reach; k++) {
    const scale = <f32>(<f64>(2 * reach + 1) / <f64>(reach + 1 + k));
    const low = smoothed + (<usize>k << 2);
    const high = smoothed + (<usize>(bins - 1 - k) << 2);
    store<f32>(low, load<f32>(low) * scale);
    store<f32>(high, load<f32>(high) * scale);
  }
  memory.copy(rawGain, smoothed, end);
}

/**
 * Takes a hop of samples at the end of `history`, reduces the noise of the last `size` samples, and adds the
 * frame to `overlap`, whose first hop is then finished. reduceFrame does the middle part alone.
 */
export function reduceHop(memory_: f32, minSnr: f32, floor: f32, reach: i32, opening: f32, closing: f32): void {
  const bytes = <usize>(size << 2);
  const hop = bytes >> 2;
  memory.copy(frame, history, bytes);
  memory.copy(history, history + hop, bytes - hop);
  reduceFrame(memory_, minSnr, floor, reach, opening, closing);
  memory.copy(overlap, overlap + hop, bytes - hop);
  memory.fill(overlap + bytes - hop, 0, hop);
  for (let o: usize = 0; o < bytes; o += 16) v128.store(overlap + o, f32x4.add(v128.load(overlap + o), v128.load(frame + o)));
}

/** Windows `frame`, reduces its noise, windows the result in `frame`. opening and closing: share of the step taken a frame. */
export function reduceFrame(memory: f32, minSnr: f32, floor: f32, reach: i32, opening: f32, closing: f32): void {
  multiplyByWindow();
  forward();
  estimateGains(memory, minSnr, floor);
  if (reach > 0) smoothOverFrequency(reach);
  const end = <usize>(bins << 2);
  const zero = f32x4.splat(0);
  const up = f32x4.splat(opening);
  const down = f32x4.splat(closing);
  for (let o: usize = 0; o < end; o += 16) {
    const before = v128.load(gain + o);
    const step = f32x4.sub(v128.load(rawGain + o), before);
    const share = v128.bitselect(up, down, f32x4.gt(step, zero));
    const g = f32x4.add(before, f32x4.mul(step, share));
    v128.store(gain + o, g);
    v128.store(binRe + o, f32x4.mul(g, v128.load(binRe + o)));
    v128.store(binIm + o, f32x4.mul(g, v128.load(binIm + o)));
  }
  inverse();
  multiplyByWindow();
}

function multiplyByWindow(): void {
  for (let o: usize = 0; o < <usize>(size << 2); o += 16) {
    v128.store(frame + o, f32x4.mul(v128.load(frame + o), v128.load(window + o)));
  }
}
