// Real FFT of N points through a complex FFT of N/2 points. Radix-4 Stockham (self-sorting, decimation in
// frequency), split real and imaginary parts, four points at a time. Written from the definition of the
// algorithm; checked in fft.test.ts against a direct DFT. N is a power of two, 64 or more.
import { allocate } from './memory';

/** Complex length, N/2. */
let half: i32 = 0;
let aRe: usize = 0;
let aIm: usize = 0;
let bRe: usize = 0;
let bIm: usize = 0;
let twiddles: usize = 0;
let turnRe: usize = 0;
let turnIm: usize = 0;

/** The N samples that `forward` reads and `inverse` writes. */
export let frame: usize = 0;
/** The N/2 + 1 bins that `forward` writes and `inverse` reads. */
export let binRe: usize = 0;
export let binIm: usize = 0;

export function fftSetUp(size: i32): void {
  half = size >> 1;
  const bytes = half << 2;
  aRe = allocate(bytes);
  aIm = allocate(bytes);
  bRe = allocate(bytes);
  bIm = allocate(bytes);
  frame = allocate(size << 2);
  binRe = allocate(bytes + 16);
  binIm = allocate(bytes + 16);
  turnRe = allocate(bytes + 16);
  turnIm = allocate(bytes + 16);
  for (let k = 0; k <= half; k++) {
    const angle = (-2.0 * Math.PI * <f64>k) / <f64>size;
    store<f32>(turnRe + (k << 2), <f32>Math.cos(angle));
    store<f32>(turnIm + (k << 2), <f32>Math.sin(angle));
  }
  twiddles = allocate((half << 3) + 64);
  let at = twiddles;
  for (let n = half; n >= 4; n >>= 2) {
    const m = n >> 2;
    for (let j = 1; j <= 3; j++) {
      for (let p = 0; p < m; p++) {
        const angle = (-2.0 * Math.PI * <f64>(j * p)) / <f64>n;
        store<f32>(at + (p << 2), <f32>Math.cos(angle));
        store<f32>(at + ((m + p) << 2), <f32>Math.sin(angle));
      }
      at += <usize>(m << 3);
    }
  }
}

// The first pass has stride 1: four neighbouring butterflies at a time, transposed on the way out.
function firstPass(xRe: usize, xIm: usize, yRe: usize, yIm: usize): void {
  const m = half >> 2;
  const step = <usize>(m << 2);
  const w1 = twiddles;
  const w2 = w1 + (step << 1);
  const w3 = w2 + (step << 1);
  for (let o: usize = 0; o < step; o += 16) {
    const ar = v128.load(xRe + o);
    const ai = v128.load(xIm + o);
    const br = v128.load(xRe + o + step);
    const bi = v128.load(xIm + o + step);
    const cr = v128.load(xRe + o + 2 * step);
    const ci = v128.load(xIm + o + 2 * step);
    const dr = v128.load(xRe + o + 3 * step);
    const di = v128.load(xIm + o + 3 * step);
    const apcR = f32x4.add(ar, cr);
    const apcI = f32x4.add(ai, ci);
    const amcR = f32x4.sub(ar, cr);
    const amcI = f32x4.sub(ai, ci);
    const bpdR = f32x4.add(br, dr);
    const bpdI = f32x4.add(bi, di);
    const jR = f32x4.sub(di, bi);
    const jI = f32x4.sub(br, dr);
    const y1r = f32x4.sub(amcR, jR);
    const y1i = f32x4.sub(amcI, jI);
    const y2r = f32x4.sub(apcR, bpdR);
    const y2i = f32x4.sub(apcI, bpdI);
    const y3r = f32x4.add(amcR, jR);
    const y3i = f32x4.add(amcI, jI);
    const w1r = v128.load(w1 + o);
    const w1i = v128.load(w1 + o + step);
    const w2r = v128.load(w2 + o);
    const w2i = v128.load(w2 + o + step);
    const w3r = v128.load(w3 + o);
    const w3i = v128.load(w3 + o + step);
    storeTransposed(
      yRe + (o << 2),
      f32x4.add(apcR, bpdR),
      f32x4.sub(f32x4.mul(y1r, w1r), f32x4.mul(y1i, w1i)),
      f32x4.sub(f32x4.mul(y2r, w2r), f32x4.mul(y2i, w2i)),
      f32x4.sub(f32x4.mul(y3r, w3r), f32x4.mul(y3i, w3i)),
    );
    storeTransposed(
      yIm + (o << 2),
      f32x4.add(apcI, bpdI),
      f32x4.add(f32x4.mul(y1r, w1i), f32x4.mul(y1i, w1r)),
      f32x4.add(f32x4.mul(y2r, w2i), f32x4.mul(y2i, w2r)),
      f32x4.add(f32x4.mul(y3r, w3i), f32x4.mul(y3i, w3r)),
    );
  }
}

// @ts-ignore: decorator
@inline
function storeTransposed(to: usize, a: v128, b: v128, c: v128, d: v128): void {
  const abLow = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const abHigh = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cdLow = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const cdHigh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<f32>(abLow, cdLow, 0, 1, 4, 5));
  v128.store(to + 16, v128.shuffle<f32>(abLow, cdLow, 2, 3, 6, 7));
  v128.store(to + 32, v128.shuffle<f32>(abHigh, cdHigh, 0, 1, 4, 5));
  v128.store(to + 48, v128.shuffle<f32>(abHigh, cdHigh, 2, 3, 6, 7));
}

// Later passes: the stride is a multiple of four, so four points share one twiddle.
function laterPass(n: i32, stride: i32, w: usize, xRe: usize, xIm: usize, yRe: usize, yIm: usize): void {
  const m = n >> 2;
  const mBytes = <usize>(m << 2);
  const sBytes = <usize>(stride << 2);
  const quarter = sBytes * <usize>m;
  for (let p = 0; p < m; p++) {
    const pBytes = <usize>(p << 2);
    const w1r = v128.load_splat<f32>(w + pBytes);
    const w1i = v128.load_splat<f32>(w + mBytes + pBytes);
    const w2r = v128.load_splat<f32>(w + 2 * mBytes + pBytes);
    const w2i = v128.load_splat<f32>(w + 3 * mBytes + pBytes);
    const w3r = v128.load_splat<f32>(w + 4 * mBytes + pBytes);
    const w3i = v128.load_splat<f32>(w + 5 * mBytes + pBytes);
    const from = sBytes * <usize>p;
    const to = sBytes * <usize>(p << 2);
    for (let q: usize = 0; q < sBytes; q += 16) {
      const i = from + q;
      const o = to + q;
      const ar = v128.load(xRe + i);
      const ai = v128.load(xIm + i);
      const br = v128.load(xRe + i + quarter);
      const bi = v128.load(xIm + i + quarter);
      const cr = v128.load(xRe + i + 2 * quarter);
      const ci = v128.load(xIm + i + 2 * quarter);
      const dr = v128.load(xRe + i + 3 * quarter);
      const di = v128.load(xIm + i + 3 * quarter);
      const apcR = f32x4.add(ar, cr);
      const apcI = f32x4.add(ai, ci);
      const amcR = f32x4.sub(ar, cr);
      const amcI = f32x4.sub(ai, ci);
      const bpdR = f32x4.add(br, dr);
      const bpdI = f32x4.add(bi, di);
      const jR = f32x4.sub(di, bi);
      const jI = f32x4.sub(br, dr);
      const y1r = f32x4.sub(amcR, jR);
      const y1i = f32x4.sub(amcI, jI);
      const y2r = f32x4.sub(apcR, bpdR);
      const y2i = f32x4.sub(apcI, bpdI);
      const y3r = f32x4.add(amcR, jR);
      const y3i = f32x4.add(amcI, jI);
      v128.store(yRe + o, f32x4.add(apcR, bpdR));
      v128.store(yIm + o, f32x4.add(apcI, bpdI));
      v128.store(yRe + o + sBytes, f32x4.sub(f32x4.mul(y1r, w1r), f32x4.mul(y1i, w1i)));
      v128.store(yIm + o + sBytes, f32x4.add(f32x4.mul(y1r, w1i), f32x4.mul(y1i, w1r)));
      v128.store(yRe + o + 2 * sBytes, f32x4.sub(f32x4.mul(y2r, w2r), f32x4.mul(y2i, w2i)));
      v128.store(yIm + o + 2 * sBytes, f32x4.add(f32x4.mul(y2r, w2i), f32x4.mul(y2i, w2r)));
      v128.store(yRe + o + 3 * sBytes, f32x4.sub(f32x4.mul(y3r, w3r), f32x4.mul(y3i, w3i)));
      v128.store(yIm + o + 3 * sBytes, f32x4.add(f32x4.mul(y3r, w3i), f32x4.mul(y3i, w3r)));
    }
  }
}

function lastRadix2(xRe: usize, xIm: usize, yRe: usize, yIm: usize): void {
  const s = <usize>(half << 1);
  for (let q: usize = 0; q < s; q += 16) {
    const ar = v128.load(xRe + q);
    const ai = v128.load(xIm + q);
    const br = v128.load(xRe + q + s);
    const bi = v128.load(xIm + q + s);
    v128.store(yRe + q, f32x4.add(ar, br));
    v128.store(yIm + q, f32x4.add(ai, bi));
    v128.store(yRe + q + s, f32x4.sub(ar, br));
    v128.store(yIm + q + s, f32x4.sub(ai, bi));
  }
}

// Transforms a; the result is in a or b. The inverse is the same with real and imaginary parts exchanged.
let outRe: usize = 0;
let outIm: usize = 0;
function complexFft(xRe: usize, xIm: usize, yRe: usize, yIm: usize): void {
  firstPass(xRe, xIm, yRe, yIm);
  let w = twiddles + (<usize>(half >> 2) * 24);
  let stride = 4;
  let n = half >> 2;
  while (n >= 4) {
    let t = xRe; xRe = yRe; yRe = t;
    t = xIm; xIm = yIm; yIm = t;
    laterPass(n, stride, w, xRe, xIm, yRe, yIm);
    w += <usize>(n >> 2) * 24;
    n >>= 2;
    stride <<= 2;
  }
  if (n == 2) {
    lastRadix2(yRe, yIm, xRe, xIm);
    yRe = xRe;
    yIm = xIm;
  }
  outRe = yRe;
  outIm = yIm;
}

// @ts-ignore: decorator
@inline
function reversed(v: v128): v128 {
  return v128.shuffle<f32>(v, v, 3, 2, 1, 0);
}

/** `frame` to bins: X[k] = sum x[n] e^(-2 pi i k n / N), not scaled. */
export function forward(): void {
  for (let i: usize = 0; i < <usize>(half << 2); i += 16) {
    const low = v128.load(frame + (i << 1));
    const high = v128.load(frame + (i << 1) + 16);
    v128.store(aRe + i, v128.shuffle<f32>(low, high, 0, 2, 4, 6));
    v128.store(aIm + i, v128.shuffle<f32>(low, high, 1, 3, 5, 7));
  }
  complexFft(aRe, aIm, bRe, bIm);
  const zRe = outRe;
  const zIm = outIm;
  const end = <usize>(half << 2);
  const h = f32x4.splat(0.5);
  // k = 1 … half - 1 in fours; the last group may run to k = half, which is set afterwards.
  for (let o: usize = 4; o < end; o += 16) {
    const mirror = end - o - 12;
    const zr = v128.load(zRe + o);
    const zi = v128.load(zIm + o);
    const mr = reversed(v128.load(zRe + mirror));
    const mi = reversed(v128.load(zIm + mirror));
    const evenR = f32x4.mul(h, f32x4.add(zr, mr));
    const evenI = f32x4.mul(h, f32x4.sub(zi, mi));
    const oddR = f32x4.mul(h, f32x4.add(zi, mi));
    const oddI = f32x4.mul(h, f32x4.sub(mr, zr));
    const tr = v128.load(turnRe + o);
    const ti = v128.load(turnIm + o);
    v128.store(binRe + o, f32x4.add(evenR, f32x4.sub(f32x4.mul(oddR, tr), f32x4.mul(oddI, ti))));
    v128.store(binIm + o, f32x4.add(evenI, f32x4.add(f32x4.mul(oddR, ti), f32x4.mul(oddI, tr))));
  }
  const dcR = load<f32>(zRe);
  const dcI = load<f32>(zIm);
  store<f32>(binRe, dcR + dcI);
  store<f32>(binIm, 0);
  store<f32>(binRe + end, dcR - dcI);
  store<f32>(binIm + end, 0);
}

/** Bins to `frame`, scaled so that inverse(forward(x)) = x. */
export function inverse(): void {
  const end = <usize>(half << 2);
  const scale: f32 = <f32>(1.0 / <f64>half);
  const h = f32x4.splat(<f32>0.5 * scale);
  for (let o: usize = 0; o < end; o += 16) {
    const mirror = end - o - 12;
    const xr = v128.load(binRe + o);
    const xi = v128.load(binIm + o);
    const mr = reversed(v128.load(binRe + mirror));
    const mi = reversed(v128.load(binIm + mirror));
    const evenR = f32x4.mul(h, f32x4.add(xr, mr));
    const evenI = f32x4.mul(h, f32x4.sub(xi, mi));
    const dR = f32x4.mul(h, f32x4.sub(xr, mr));
    const dI = f32x4.mul(h, f32x4.add(xi, mi));
    const tr = v128.load(turnRe + o);
    const ti = v128.load(turnIm + o);
    // odd = d * conj(turn)
    const oddR = f32x4.add(f32x4.mul(dR, tr), f32x4.mul(dI, ti));
    const oddI = f32x4.sub(f32x4.mul(dI, tr), f32x4.mul(dR, ti));
    v128.store(aRe + o, f32x4.sub(evenR, oddI));
    v128.store(aIm + o, f32x4.add(evenI, oddR));
  }
  complexFft(aIm, aRe, bIm, bRe);
  const zIm = outRe;
  const zRe = outIm;
  for (let i: usize = 0; i < end; i += 16) {
    const re = v128.load(zRe + i);
    const im = v128.load(zIm + i);
    v128.store(frame + (i << 1), v128.shuffle<f32>(re, im, 0, 4, 1, 5));
    v128.store(frame + (i << 1) + 16, v128.shuffle<f32>(re, im, 2, 6, 3, 7));
  }
}
