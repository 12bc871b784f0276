// One frame of log-MMSE noise reduction (Ephraim & Malah 1985, eq. 20) with the decision-directed a-priori
// SNR (Ephraim & Malah 1984, eq. 51). exp(E1(v) / 2) comes from a table that TypeScript fills, indexed by
// the exponent and the top seven mantissa bits of v.
import { allocate } from './memory';
import { binIm, binRe, fftSetUp, forward, frame, inverse } from './fft';

const TABLE_LOW_BITS: i32 = 0x35800000; // 2^-20
const TABLE_STEPS: i32 = 25 << 7; // up to 2^5

let bins: i32 = 0;
let size: i32 = 0;
let prefix: usize = 0;

export let window: usize = 0;
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
  table = allocate((TABLE_STEPS + 2) << 2);
  inverseNoise = allocate(bytes);
  speechPower = allocate(bytes);
  rawGain = allocate(bytes);
  gain = allocate(bytes);
  prefix = allocate((bins + 1) << 3);
}

/** exp(E1(v) / 2), v clamped to the table. */
// @ts-ignore: decorator
@inline
function halfE1Exp(v: f32): f32 {
  let bits = reinterpret<i32>(v) - TABLE_LOW_BITS;
  if (bits < 0) bits = 0;
  const index = bits >> 16;
  if (index >= TABLE_STEPS) return 1;
  const fraction = <f32>(bits & 0xffff) * <f32>(1.0 / 65536.0);
  const at = table + (<usize>index << 2);
  const low = load<f32>(at);
  return low + (load<f32>(at, 4) - low) * fraction;
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
    let boost = f32x4.splat(halfE1Exp(f32x4.extract_lane(v, 0)));
    boost = f32x4.replace_lane(boost, 1, halfE1Exp(f32x4.extract_lane(v, 1)));
    boost = f32x4.replace_lane(boost, 2, halfE1Exp(f32x4.extract_lane(v, 2)));
    boost = f32x4.replace_lane(boost, 3, halfE1Exp(f32x4.extract_lane(v, 3)));
    const g = f32x4.min(one, f32x4.mul(wiener, boost));
    v128.store(speechPower + o, f32x4.mul(f32x4.mul(g, g), power));
    v128.store(rawGain + o, f32x4.max(least, g));
  }
}

/** Moving average of rawGain over 2 * reach + 1 bins, cut at the edges; result in rawGain. */
function smoothOverFrequency(reach: i32): void {
  let sum: f64 = 0;
  store<f64>(prefix, 0);
  for (let k = 0; k < bins; k++) {
    sum += <f64>load<f32>(rawGain + (<usize>k << 2));
    store<f64>(prefix + (<usize>(k + 1) << 3), sum);
  }
  for (let k = 0; k < bins; k++) {
    const low = max(0, k - reach);
    const high = min(bins, k + reach + 1);
    const total = load<f64>(prefix + (<usize>high << 3)) - load<f64>(prefix + (<usize>low << 3));
    store<f32>(rawGain + (<usize>k << 2), <f32>(total / <f64>(high - low)));
  }
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
