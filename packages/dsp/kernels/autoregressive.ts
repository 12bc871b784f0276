// Autoregressive models of short stretches of sound and least-squares interpolation with them, in doubles: the
// matrices are close to singular. Convention: e[n] = x[n] + a[1] x[n-1] + … + a[p] x[n-p].
import { allocate } from './memory';

let order: i32 = 0;
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

let windowed: usize = 0;
let correlation: usize = 0;
let kept: usize = 0;
/** Row i holds its elements i - order … i, the diagonal last. */
let rows: usize = 0;
let right: usize = 0;
/** First column of each row that is not zero: Cholesky fills nothing before it. */
let first: usize = 0;

export function arSetUp(modelOrder: i32, length: i32, window_: i32, most: i32): void {
  order = modelOrder;
  windowLength = window_;
  strip = allocate((length + 2) << 3);
  predictionError = allocate((length + 2) << 3);
  modelWindow = allocate(window_ << 3);
  models = allocate((8 * (modelOrder + 1)) << 3);
  missing = allocate(most << 2);
  windowed = allocate((window_ + 4) << 3);
  correlation = allocate((modelOrder + 8) << 3);
  kept = allocate((modelOrder + 1) << 3);
  rows = allocate((most * (modelOrder + 1) + 2) << 3);
  right = allocate(most << 3);
  first = allocate(most << 2);
}

// @ts-ignore: decorator
@inline
function at(base: usize, index: i32): usize {
  return base + (<usize>index << 3);
}

// @ts-ignore: decorator
@inline
function lanes(v: v128): f64 {
  return f64x2.extract_lane(v, 0) + f64x2.extract_lane(v, 1);
}

/** Sum of p[n] q[n], n < count. */
// @ts-ignore: decorator
@inline
function dot(p: usize, q: usize, count: i32): f64 {
  let a = f64x2.splat(0);
  let b = f64x2.splat(0);
  let n = 0;
  for (; n + 4 <= count; n += 4) {
    a = f64x2.add(a, f64x2.mul(v128.load(at(p, n)), v128.load(at(q, n))));
    b = f64x2.add(b, f64x2.mul(v128.load(at(p, n), 16), v128.load(at(q, n), 16)));
  }
  let sum = lanes(f64x2.add(a, b));
  for (; n < count; n++) sum += load<f64>(at(p, n)) * load<f64>(at(q, n));
  return sum;
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

/** Replaces the `count` missing samples by those that make the sum of the squared prediction errors least. */
export function arInterpolate(count: i32, model: i32): void {
  const a = at(models, model * (order + 1));
  for (let lag = 0; lag <= order; lag++) store<f64>(at(kept, lag), dot(a, at(a, lag), order + 1 - lag));
  for (let i = 0; i < count; i++) store<f64>(at(strip, load<i32>(missing + (<usize>i << 2))), 0);
  const b0 = load<f64>(kept);
  for (let i = 0, start = 0; i < count; i++) {
    const here = load<i32>(missing + (<usize>i << 2));
    let sum = 0.0;
    for (let lag = 1; lag <= order; lag++) sum += load<f64>(at(kept, lag)) * (load<f64>(at(strip, here - lag)) + load<f64>(at(strip, here + lag)));
    store<f64>(at(right, i), -sum);
    while (here - load<i32>(missing + (<usize>start << 2)) > order) start++;
    store<i32>(first + (<usize>i << 2), start);
    const row = i * (order + 1) + order - i;
    for (let j = start; j < i; j++) store<f64>(at(rows, row + j), load<f64>(at(kept, here - load<i32>(missing + (<usize>j << 2)))));
    store<f64>(at(rows, row + i), b0 * (1 + 1e-10));
  }
  solve(count);
  for (let i = 0; i < count; i++) store<f64>(at(strip, load<i32>(missing + (<usize>i << 2))), load<f64>(at(right, i)));
}

/** Cholesky within the band, then forward and backward substitution in `right`. */
function solve(count: i32): void {
  for (let i = 0; i < count; i++) {
    const row = i * (order + 1) + order - i;
    const from = load<i32>(first + (<usize>i << 2));
    let diagonal = load<f64>(at(rows, row + i));
    let value = load<f64>(at(right, i));
    for (let j = from; j < i; j++) {
      const other = j * (order + 1) + order - j;
      const start = max(from, load<i32>(first + (<usize>j << 2)));
      const sum = load<f64>(at(rows, row + j)) - dot(at(rows, row + start), at(rows, other + start), j - start);
      const l = sum / load<f64>(at(rows, other + j));
      store<f64>(at(rows, row + j), l);
      diagonal -= l * l;
      value -= l * load<f64>(at(right, j));
    }
    const root = Math.sqrt(max(diagonal, 1e-12));
    store<f64>(at(rows, row + i), root);
    store<f64>(at(right, i), value / root);
  }
  for (let i = count - 1; i >= 0; i--) {
    const row = i * (order + 1) + order - i;
    const value = load<f64>(at(right, i)) / load<f64>(at(rows, row + i));
    store<f64>(at(right, i), value);
    for (let j = load<i32>(first + (<usize>i << 2)); j < i; j++) store<f64>(at(right, j), load<f64>(at(right, j)) - load<f64>(at(rows, row + j)) * value);
  }
}
