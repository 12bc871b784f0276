// What the gain network is told of a frame, and what it says: features of 216 bands (single bins to 4 kHz at 24 or 48 kHz, then wider
// ones), a small part that is the same for every band, and beside both a textbook rule with weights of the band's own. The trunk
// (./gain-trunk) is one frame ahead of the frame that is weighed, the small part hears two frames ahead.
import { allocate } from './memory';
import { log2 } from './logarithm';
import { exp4 } from './speech-model';

const FRAMES: i32 = 5;
/** Zeros on either side of the bands: neighbours of the outermost. */
const EDGE: usize = 16;
const PARTS: i32 = 17;
const UNITS: i32 = 6;
const KEPT: f32 = 0.96;
const LEAST_PRIOR: f32 = 0.0031622776;
const LOG10_2: f32 = 0.30102999566;
/** Bins whose mean is the level of the talk. */
const LEVEL_FROM: i32 = 4;
const LEVEL_TO: i32 = 171;

let bins: i32 = 0;
let bands: i32 = 0;
let single: i32 = 0;
let bandBytes: usize = 0;
/** First bin of each band above the single ones, and the bin after the last; those beyond the spectrum are empty. */
export let wideStart: usize = 0;
/** Of the bands: f1 then f2 of the newest frame, for the trunk. */
export let bandFeatures: usize = 0;
/** What the trunk said of the frame before the newest. */
export let bandMaps: usize = 0;
export let localWeights: usize = 0;
export let localBias: usize = 0;
export let joinWeights: usize = 0;
export let skipWeights: usize = 0;
/** Gain of each band, and of each bin that the bands reach. */
export let bandGain: usize = 0;
export let binGain: usize = 0;
/** Bins from here on are above the bands. */
export let modelledBins: i32 = 0;
/** Level of the talk, log10 of the mean power; and whether it began. */
export let gainLevel: f32 = 0;
export let gainBegun: bool = false;
let newest: i32 = 0;
let f1: usize = 0;
let f2: usize = 0;
let dd: usize = 0;
let past: usize = 0;
let prior: usize = 0;
let means: usize = 0;
let noiseMeans: usize = 0;

export function gainModelSetUp(binCount: i32, bandCount: i32, singleCount: i32): void {
  bins = binCount;
  bands = bandCount;
  single = singleCount;
  bandBytes = (<usize>bandCount << 2) + 2 * EDGE;
  wideStart = allocate((bandCount - singleCount + 1) << 2);
  bandFeatures = allocate(bandCount << 3);
  bandMaps = allocate(3 * bandCount << 2);
  localWeights = allocate(PARTS * UNITS << 2);
  localBias = allocate(UNITS << 2);
  joinWeights = allocate((UNITS + 1) << 2);
  skipWeights = allocate(5 * bandCount << 2);
  bandGain = allocate(<i32>bandBytes);
  binGain = allocate((binCount << 2) + 32);
  f1 = allocate(<i32>bandBytes * FRAMES) + EDGE;
  f2 = allocate(<i32>bandBytes * FRAMES) + EDGE;
  dd = allocate(<i32>bandBytes * FRAMES) + EDGE;
  past = allocate((binCount << 2) + 32);
  prior = allocate((binCount << 2) + 32);
  means = allocate(<i32>bandBytes);
  noiseMeans = allocate(<i32>bandBytes);
}

/** Once `wideStart` is filled. */
export function gainModelReset(): void {
  modelledBins = min<i32>(bins, load<i32>(wideStart + (<usize>(bands - single) << 2)));
  gainBegun = false;
  newest = 0;
  memory.fill(f1 - EDGE, 0, bandBytes * <usize>FRAMES);
  memory.fill(f2 - EDGE, 0, bandBytes * <usize>FRAMES);
  memory.fill(dd - EDGE, 0, bandBytes * <usize>FRAMES);
  memory.fill(past, 0, bins << 2);
  memory.fill(bandMaps, 0, 3 * bands << 2);
}

// @ts-ignore: decorator
@inline
function log10(x: v128): v128 {
  return f32x4.mul(f32x4.splat(LOG10_2), log2(x));
}

// @ts-ignore: decorator
@inline
function clipped(x: v128, low: f32, high: f32): v128 {
  return f32x4.pmin(f32x4.splat(high), f32x4.pmax(f32x4.splat(low), x));
}

/** Means of the bands of a spectrum; a band beyond it has `none`. */
function toBands(power: usize, into: usize, none: f32): void {
  const direct = min<i32>(single, bins);
  memory.copy(into, power, direct << 2);
  for (let b = direct; b < single; b++) store<f32>(into + (<usize>b << 2), none);
  for (let b = single; b < bands; b++) {
    const at = wideStart + (<usize>(b - single) << 2);
    const from = min<i32>(bins, load<i32>(at));
    const to = min<i32>(bins, load<i32>(at, 4));
    let sum: f32 = 0;
    for (let k = from; k < to; k++) sum += load<f32>(power + (<usize>k << 2));
    store<f32>(into + (<usize>b << 2), to > from ? sum / <f32>(to - from) : none);
  }
}

function meanLevel(power: usize): f32 {
  let sum: f32 = 0;
  const to = min<i32>(LEVEL_TO, bins);
  for (let k = LEVEL_FROM; k < to; k++) sum += load<f32>(power + (<usize>k << 2));
  return <f32>Math.log10(<f64>(sum / <f32>(to - LEVEL_FROM)) + 1e-12);
}

/** Hears a frame of this power over this noise (times `threshold`). */
export function gainModelHear(power: usize, noise: usize, threshold: f32): void {
  newest = (newest + 1) % FRAMES;
  const energy = meanLevel(power);
  if (!gainBegun) {
    gainLevel = meanLevel(noise);
    gainBegun = true;
  }
  gainLevel += (energy > gainLevel ? <f32>0.3 : <f32>0.01) * (energy - gainLevel);
  const one = f32x4.splat(1);
  const over = f32x4.splat(threshold);
  const least = f32x4.splat(LEAST_PRIOR);
  for (let o: usize = 0, end = <usize>bins << 2; o < end; o += 16) {
    const post = f32x4.div(v128.load(power + o), f32x4.add(f32x4.mul(over, v128.load(noise + o)), f32x4.splat(<f32>1e-14)));
    const fresh = f32x4.pmax(f32x4.splat(0), f32x4.sub(post, one));
    const x = f32x4.pmax(least, f32x4.add(f32x4.mul(f32x4.splat(KEPT), v128.load(past + o)), f32x4.mul(f32x4.splat(1 - KEPT), fresh)));
    const wiener = f32x4.div(x, f32x4.add(one, x));
    v128.store(past + o, f32x4.mul(f32x4.mul(wiener, wiener), post));
    v128.store(prior + o, x);
  }
  const slot = <usize>newest * bandBytes;
  toBands(power, means, 0);
  toBands(noise, noiseMeans, 0);
  toBands(prior, dd + slot, LEAST_PRIOR);
  const scale = f32x4.splat(<f32>(1.0 / 1.3));
  for (let o: usize = 0, end = <usize>bands << 2; o < end; o += 16) {
    const p = v128.load(means + o);
    const ratio = f32x4.div(f32x4.add(p, f32x4.splat(<f32>1e-14)), f32x4.add(f32x4.mul(over, v128.load(noiseMeans + o)), f32x4.splat(<f32>1e-14)));
    const a = f32x4.sub(clipped(log10(f32x4.add(ratio, f32x4.splat(<f32>1e-12))), -2, 4), f32x4.splat(<f32>0.3));
    v128.store(f1 + slot + o, a);
    v128.store(bandFeatures + o, a);
    const logPower = log10(f32x4.add(p, f32x4.splat(<f32>1e-12)));
    const b = f32x4.mul(scale, f32x4.add(clipped(f32x4.sub(logPower, f32x4.splat(gainLevel)), -6, 2), f32x4.splat(1.5)));
    v128.store(f2 + slot + o, b);
    v128.store(bandFeatures + (<usize>bands << 2) + o, b);
    const c = clipped(log10(v128.load(dd + slot + o)), -2.5, 4);
    v128.store(dd + slot + o, f32x4.mul(scale, f32x4.add(c, f32x4.splat(0.5))));
  }
}

// @ts-ignore: decorator
@inline
function frameAgo(list: usize, ago: i32): usize {
  return list + <usize>((newest - ago + FRAMES) % FRAMES) * bandBytes;
}

/** Gains of the frame two ago, by band and by bin. Where a frame lies costs a division, so all are looked up once. */
export function gainModelSay(): void {
  const row = <usize>bands << 2;
  const fourAgo = frameAgo(f1, 4);
  const threeAgo = frameAgo(f1, 3);
  const here = frameAgo(f1, 2);
  const next = frameAgo(f1, 1);
  const last = frameAgo(f1, 0);
  const ddHere = frameAgo(dd, 2);
  const ddNext = frameAgo(dd, 1);
  const ddLast = frameAgo(dd, 0);
  const spectrum = frameAgo(f2, 2);
  const maps = bandMaps;
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let o: usize = 0; o < row; o += 16) {
    let z = f32x4.add(v128.load(maps + o), v128.load32_splat(joinWeights + (UNITS << 2)));
    for (let u: usize = 0; u < <usize>(UNITS << 2); u += 4) {
      const w = localWeights + u;
      let x = v128.load32_splat(localBias + u);
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 0), v128.load(fourAgo + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 24), v128.load(threeAgo + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 48), v128.load(here + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 72), v128.load(next + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 96), v128.load(last + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 120), v128.load(ddHere + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 144), v128.load(ddLast + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 168), v128.load(here + o - 8)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 192), v128.load(here + o - 4)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 216), v128.load(here + o + 4)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 240), v128.load(here + o + 8)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 264), v128.load(ddNext + o - 4)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 288), v128.load(ddNext + o + 4)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 312), v128.load(spectrum + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 336), v128.load(maps + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 360), v128.load(maps + row + o)));
      x = f32x4.add(x, f32x4.mul(v128.load32_splat(w, 384), v128.load(maps + 2 * row + o)));
      z = f32x4.add(z, f32x4.mul(v128.load32_splat(joinWeights + u), f32x4.pmax(zero, x)));
    }
    z = f32x4.add(z, f32x4.mul(v128.load(skipWeights + o), v128.load(here + o)));
    z = f32x4.add(z, f32x4.mul(v128.load(skipWeights + row + o), v128.load(ddHere + o)));
    z = f32x4.add(z, f32x4.mul(v128.load(skipWeights + 2 * row + o), v128.load(ddNext + o)));
    z = f32x4.add(z, f32x4.mul(v128.load(skipWeights + 3 * row + o), v128.load(ddLast + o)));
    z = f32x4.add(z, v128.load(skipWeights + 4 * row + o));
    v128.store(bandGain + o, f32x4.div(one, f32x4.add(one, exp4(f32x4.neg(z)))));
  }
  spread();
}

/** Single bins as they are; above them straight lines from centre to centre of the bands, level beyond the last. */
function spread(): void {
  let k = min<i32>(single, bins);
  memory.copy(binGain, bandGain, k << 2);
  let centreBefore: f32 = <f32>(single - 1);
  let before = load<f32>(bandGain + (<usize>(single - 1) << 2));
  for (let b = single; b < bands && k < modelledBins; b++) {
    const at = wideStart + (<usize>(b - single) << 2);
    const centre: f32 = <f32>(load<i32>(at) + load<i32>(at, 4) - 1) * 0.5;
    const here = load<f32>(bandGain + (<usize>b << 2));
    const slope: f32 = (here - before) / (centre - centreBefore);
    for (; k < modelledBins && <f32>k <= centre; k++) store<f32>(binGain + (<usize>k << 2), before + slope * (<f32>k - centreBefore));
    before = here;
    centreBefore = centre;
  }
  for (; k < modelledBins; k++) store<f32>(binGain + (<usize>k << 2), before);
}
