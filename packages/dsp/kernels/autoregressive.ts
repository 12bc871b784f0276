// Autoregressive models of short stretches of sound, in doubles: the matrices are close to singular. Convention: e[n] = x[n] + a[1] x[n-1] + … + a[p] x[n-p].
import { at, lanes } from './doubles';
import { allocate } from './memory';

export let order: i32 = 0;
let windowLength: i32 = 0;

/** The sound that is worked on. */
export let strip: usize = 0;
/** Prediction error, one value for each of `strip`. */
export let predictionError: usize = 0;
/** Window of a model, `windowLength` values. */
export let modelWindow: usize = 0;
/** Coefficients a[0 … order] of eight models, one after the other. */
export let models: usize = 0;
/** Indices in `strip` of the samples to find, ascending, at least `order` from either end. */
export let missing: usize = 0;
/** For each of them, 1 above and -1 below. */
export let sides: usize = 0;
/** The hop that comes and the hop that goes, single precision. */
export let incoming: usize = 0;
export let outgoing: usize = 0;

let windowed: usize = 0;
let correlation: usize = 0;

export function modelsSetUp(modelOrder: i32, length: i32, window_: i32, most: i32): void {
  order = modelOrder;
  windowLength = window_;
  strip = allocate((length + 2) << 3);
  predictionError = allocate((length + 2) << 3);
  modelWindow = allocate(window_ << 3);
  models = allocate((8 * (modelOrder + 1)) << 3);
  missing = allocate((most + 1) << 2);
  sides = allocate((most + 1) << 2);
  incoming = allocate(window_ << 2);
  outgoing = allocate(window_ << 2);
  windowed = allocate((window_ + 4) << 3);
  correlation = allocate((modelOrder + 8) << 3);
}

/** Model number `model` of strip[start … start + windowLength): windowed autocorrelation, Levinson and Durbin. */
export function arModel(start: i32, model: i32): void {
  for (let n = 0; n < windowLength; n += 2) v128.store(at(windowed, n), f64x2.mul(v128.load(at(strip, start + n)), v128.load(at(modelWindow, n))));
  // Four lags in one pass share their loads.
  for (let lag = 0; lag <= order; lag += 4) {
    let s0 = f64x2.splat(0), s1 = f64x2.splat(0), s2 = f64x2.splat(0), s3 = f64x2.splat(0);
    let n = lag + 3;
    let t0 = 0.0, t1 = 0.0, t2 = 0.0;
    // The first samples, that the longer lags do not reach.
    for (let m = lag; m < n; m++) {
      const x = load<f64>(at(windowed, m));
      t0 += x * load<f64>(at(windowed, m - lag));
      if (m > lag) t1 += x * load<f64>(at(windowed, m - lag - 1));
      if (m > lag + 1) t2 += x * load<f64>(at(windowed, m - lag - 2));
    }
    for (; n + 2 <= windowLength; n += 2) {
      const x = v128.load(at(windowed, n));
      const past = at(windowed, n - lag);
      s0 = f64x2.add(s0, f64x2.mul(x, v128.load(past)));
      s1 = f64x2.add(s1, f64x2.mul(x, v128.load(past - 8)));
      s2 = f64x2.add(s2, f64x2.mul(x, v128.load(past - 16)));
      s3 = f64x2.add(s3, f64x2.mul(x, v128.load(past - 24)));
    }
    let t3 = 0.0;
    for (; n < windowLength; n++) {
      const x = load<f64>(at(windowed, n));
      const past = at(windowed, n - lag);
      t0 += x * load<f64>(past);
      t1 += x * load<f64>(past - 8);
      t2 += x * load<f64>(past - 16);
      t3 += x * load<f64>(past - 24);
    }
    store<f64>(at(correlation, lag), lanes(s0) + t0);
    store<f64>(at(correlation, lag + 1), lanes(s1) + t1);
    store<f64>(at(correlation, lag + 2), lanes(s2) + t2);
    store<f64>(at(correlation, lag + 3), lanes(s3) + t3);
  }
  levinson(at(models, model * (order + 1)));
}

/** White-noise correction of 1e-9, so that digital silence and pure tones stay stable. */
function levinson(a: usize): void {
  memory.fill(a, 0, (order + 1) << 3);
  store<f64>(a, 1);
  let error = load<f64>(correlation) * (1 + 1e-9) + 1e-20;
  for (let i = 1; i <= order; i++) {
    let sum = load<f64>(at(correlation, i));
    for (let j = 1; j < i; j++) sum += load<f64>(at(a, j)) * load<f64>(at(correlation, i - j));
    const k = -sum / error;
    for (let j = 1, m = i - 1; j <= m; j++, m--) {
      const low = load<f64>(at(a, j));
      const high = load<f64>(at(a, m));
      store<f64>(at(a, j), low + k * high);
      if (j != m) store<f64>(at(a, m), high + k * low);
    }
    store<f64>(at(a, i), k);
    error *= 1 - k * k;
  }
}

/** Prediction error of strip[from … to), from at least `order`. */
export function arResidual(from: i32, to: i32, model: i32): void {
  const a = at(models, model * (order + 1));
  for (let n = from; n < to; n += 4) {
    let low = f64x2.splat(0);
    let high = f64x2.splat(0);
    const here = at(strip, n);
    for (let i = 0; i <= order; i++) {
      const c = v128.load64_splat(at(a, i));
      const past = here - (<usize>i << 3);
      low = f64x2.add(low, f64x2.mul(c, v128.load(past)));
      high = f64x2.add(high, f64x2.mul(c, v128.load(past, 16)));
    }
    // The last vectors may reach over `to`: what lies there is written again, or was only a bound.
    v128.store(at(predictionError, n), low);
    if (n + 2 < to) v128.store(at(predictionError, n + 2), high);
  }
}

// @ts-ignore: decorator
@inline
export function missingAt(index: i32): i32 {
  return load<i32>(missing + (<usize>index << 2));
}

/**
 * Moves the strip one hop on: what came goes to its end. Called when a hop is complete; `arSend` makes ready the hop
 * that goes out, at frame `from` of the strip.
 */
export function arTake(hop: i32, length: i32): void {
  memory.copy(strip, at(strip, hop), <usize>(length - hop) << 3);
  const end = at(strip, length - hop);
  for (let n = 0; n < hop; n += 2) v128.store(at(end, n), f64x2.promote_low_f32x4(v128.load64_zero(incoming + (<usize>n << 2))));
}

export function arSend(hop: i32, from: i32, gain: f64): void {
  const factor = f64x2.splat(gain);
  for (let n = 0; n < hop; n += 2) v128.store_lane<f64>(outgoing + (<usize>n << 2), f32x4.demote_f64x2_zero(f64x2.mul(v128.load(at(strip, from + n)), factor)), 0);
}

/** Another order, up to the one that was set up; models are then the shorter, one after the other. */
export function arUseOrder(modelOrder: i32): void {
  order = modelOrder;
}

/**
 * Finds what lies at or beyond a level on either side in strip[from … to): into `missing`, with its side (1, -1) in
 * `sides`. Returns how many.
 */
export function arFindBeyond(from: i32, to: i32, up: f64, down: f64): i32 {
  let count = 0;
  for (let n = from; n < to; n++) {
    const x = load<f64>(at(strip, n));
    const side = i32(x >= up) - i32(x <= -down);
    store<i32>(missing + (<usize>count << 2), n);
    store<i32>(sides + (<usize>count << 2), side);
    count += side & 1;
  }
  return count;
}

/** Holds the first `count` of the missing samples beyond the level of their side, and within `most` times it. */
export function arHoldBeyond(count: i32, up: f64, down: f64, most: f64): void {
  for (let i = 0; i < count; i++) {
    const here = at(strip, missingAt(i));
    const side = <f64>load<i32>(sides + (<usize>i << 2));
    const level = side > 0 ? up : down;
    store<f64>(here, side * max(level, min(level * most, load<f64>(here) * side)));
  }
}
