// Noise reduction, a hop at a time. With the gain network (./gain-model) its word is what counts: its gain g and the power over the
// noise make the a-priori SNR g² P/N, and the gain is that of log-MMSE (Ephraim & Malah 1985, eq. 20). Without it, and above its bands:
// the noise as it is now (./noise-estimate), the share of speech in every band
// (./speech-model), and from both the gain of every bin. The a-priori SNR is the geometric mean of what the
// decision-directed rule says of a bin (Ephraim & Malah 1984, eq. 51) and what the model says of its band; the gain is
// Wiener's, and the log-MMSE gain (Ephraim & Malah 1985, eq. 20) estimates the speech that the next frame starts from.
// exp(E1(v) / 2) comes from a table that TypeScript fills, indexed by the exponent and the top seven mantissa bits of v.
import { binGain, gainModelHear, gainModelReset, gainModelSay, gainModelSetUp, modelledBins } from './gain-model';
import { binIm, binRe, fftSetUp, forward, frame, inverse } from './fft';
import { allocate } from './memory';
import { noiseEstimateReset, noiseEstimateSetUp, noiseFollow, noisePower, noiseTrack } from './noise-estimate';
import { hearFrame, presence, share, speechSharesReset, speechSharesSetUp } from './speech-shares';

const TABLE_LOW_BITS: i32 = 0x35800000; // 2^-20
const TABLE_STEPS: i32 = 25 << 7; // up to 2^5
/** The model never says less than this share of the decision-directed SNR: it may miss a voice that it does not know. */
const LEAST_TRUST: f32 = 0.2;
/** Where it hears hardly anything in the whole frame it is taken at its word: no bin warbles in a gap. */
const GAP_TRUST: f32 = 0.01;
const SURE_PRESENCE: f32 = 0.12;
/**
 * Where somebody talks priors are raised a little: for intelligibility (ESTOI), at a fifth of a decibel of SI-SDR (0.7 to
 * 1.8 were tried); in gaps they are lowered.
 */
const SPEECH_SCALE: f32 = 1.28;
const GAP_SCALE: f32 = 0.92;
const TALK_PRESENCE: f32 = 0.55;
const FOLLOWED: i32 = 1;
/** What is slow need not be looked at in every frame; of long ones fewer go into the grid on which chains start. */
let followEvery: i32 = 4;

let bins: i32 = 0;
let size: i32 = 0;
let lookAhead: i32 = 0;
let modelled: bool = false;
let frames: i32 = 0;
let smoothed: usize = 0;
let slots: usize = 0;
let slotBytes: i32 = 0;
let power: usize = 0;
/** Zeros on either side of rawGain: the largest reach in bins, and a vector. */
const EDGE_BYTES: i32 = 32 << 2;

export let window: usize = 0;
/** The last `size` samples; the newest hop is filled from outside before each reduceHop. */
export let history: usize = 0;
/** Sum of the windowed frames. */
export let overlap: usize = 0;
/** exp(E1(v) / 2) at the 3201 grid points. */
export let table: usize = 0;
/** Lowest gain of each bin. */
export let floors: usize = 0;
/** Power of the frame that is weighed. */
export let weighedPower: usize = 0;
/** Clean-speech power estimate of the previous frame, per bin. */
export let speechPower: usize = 0;
/** Gain before smoothing, and the smoothed gain that is applied, per bin. */
export let rawGain: usize = 0;
export let gain: usize = 0;
/** What a second network takes for speech in the frame that is weighed next: its samples, and its power by bin. */
export let opinionFrame: usize = 0;
let opinionPower: usize = 0;
/** How much its word counts, 0 … 1; 0 where there is none. */
export let opinionShare: f32 = 0;

/** `gainBands` 0 for no gain network; of its bands so many are `gainSingle` bins. */
export function noiseReductionSetUp(fftSize: i32, bandCount: i32, hiddenCount: i32, ahead: i32, gainBands: i32, gainSingle: i32): void {
  fftSetUp(fftSize);
  size = fftSize;
  bins = (fftSize >> 1) + 1;
  lookAhead = ahead;
  followEvery = fftSize <= 2048 ? 4 : 1;
  noiseEstimateSetUp(bins);
  speechSharesSetUp(bins, bandCount, hiddenCount);
  modelled = gainBands > 0;
  if (modelled) gainModelSetUp(bins, gainBands, gainSingle);
  const bytes = (bins << 2) + 32;
  window = allocate(fftSize << 2);
  history = allocate(fftSize << 2);
  overlap = allocate(fftSize << 2);
  table = allocate((TABLE_STEPS + 2) << 2);
  floors = allocate(bytes);
  power = allocate(bytes);
  weighedPower = allocate(bytes);
  speechPower = allocate(bytes);
  rawGain = allocate(bytes + 2 * EDGE_BYTES) + <usize>EDGE_BYTES;
  gain = allocate(bytes);
  opinionFrame = allocate(fftSize << 2);
  opinionPower = allocate(bytes);
  smoothed = allocate(bytes + 16);
  slotBytes = bytes;
  slots = allocate((ahead + 1) * 2 * bytes);
}

/** Back to the state after creation: nothing heard, gains at their floors. */
export function noiseReductionReset(): void {
  frames = 0;
  memory.fill(history, 0, size << 2);
  memory.fill(overlap, 0, size << 2);
  memory.fill(speechPower, 0, bins << 2);
  if (modelled) gainModelReset();
  speechSharesReset();
  memory.fill(slots, 0, (lookAhead + 1) * 2 * slotBytes);
  memory.copy(gain, floors, bins << 2);
  noiseEstimateReset();
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
  const clamped = f32x4.pmin(f32x4.splat(<f32>31.9999), f32x4.pmax(f32x4.splat(<f32>9.5367431640625e-7), v));
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

/** Gains of the frame's bins from `first` on. memory: decision-directed weight; minSnr: floor of the a-priori SNR. */
function estimateGains(memory: f32, minSnr: f32, threshold: f32, first: i32): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const keep = f32x4.splat(memory);
  const fresh = f32x4.splat(1 - memory);
  const lowest = f32x4.splat(minSnr);
  const over = f32x4.splat(threshold);
  const sure = min<f32>(1, presence / SURE_PRESENCE);
  const trust = f32x4.splat(GAP_TRUST + (LEAST_TRUST - GAP_TRUST) * sure);
  const scale = f32x4.splat(GAP_SCALE + (SPEECH_SCALE - GAP_SCALE) * min<f32>(1, presence / TALK_PRESENCE));
  for (let o = <usize>first << 2, end = <usize>bins << 2; o < end; o += 16) {
    const p = v128.load(weighedPower + o);
    const inv = f32x4.div(one, f32x4.add(f32x4.mul(over, v128.load(noisePower + o)), f32x4.splat(1e-14)));
    const post = f32x4.mul(p, inv);
    const excess = f32x4.pmax(zero, f32x4.sub(post, one));
    const past = f32x4.mul(v128.load(speechPower + o), inv);
    const directed = f32x4.pmax(lowest, f32x4.add(f32x4.mul(keep, past), f32x4.mul(fresh, excess)));
    const w = f32x4.pmin(f32x4.splat(<f32>0.9999), v128.load(share + o));
    const told = f32x4.pmax(f32x4.div(w, f32x4.sub(one, w)), f32x4.mul(trust, directed));
    const prior = f32x4.mul(scale, f32x4.sqrt(f32x4.mul(directed, told)));
    const wiener = f32x4.div(prior, f32x4.add(one, prior));
    const g = f32x4.pmin(one, f32x4.mul(wiener, halfE1Exp(f32x4.mul(wiener, post))));
    v128.store(speechPower + o, f32x4.mul(f32x4.mul(g, g), p));
    const deepest = v128.load(floors + o);
    v128.store(rawGain + o, f32x4.pmax(deepest, wiener));
  }
}

/** The same for the first `known` bins, which the gain network knows: the power of the speech is what it says, and what the second one says. */
function estimateModelled(threshold: f32, known: i32): void {
  const one = f32x4.splat(1);
  const over = f32x4.splat(threshold);
  for (let o: usize = 0, end = <usize>known << 2; o < end; o += 16) {
    const p = v128.load(weighedPower + o);
    const inv = f32x4.div(one, f32x4.add(f32x4.mul(over, v128.load(noisePower + o)), f32x4.splat(1e-14)));
    const post = f32x4.mul(p, inv);
    const told = v128.load(binGain + o);
    const own = f32x4.mul(f32x4.mul(told, told), post);
    const second = f32x4.mul(v128.load(opinionPower + o), inv);
    const prior = f32x4.add(own, f32x4.mul(f32x4.splat(opinionShare), f32x4.sub(second, own)));
    const wiener = f32x4.div(prior, f32x4.add(one, prior));
    const g = f32x4.pmin(one, f32x4.mul(wiener, halfE1Exp(f32x4.mul(wiener, post))));
    v128.store(speechPower + o, f32x4.mul(f32x4.mul(g, g), p));
    v128.store(rawGain + o, f32x4.pmax(v128.load(floors + o), g));
  }
}

/**
 * Moving average of rawGain over 2 * reach + 1 bins, cut at the edges; result in rawGain. rawGain has zeros on
 * either side, so that the sum needs no cases; only the number of bins in it differs near the edges.
 */
function smoothOverFrequency(reach: i32): void {
  const end = <usize>(bins << 2);
  const span = <usize>(reach << 2);
  const part = f32x4.splat(<f32>(1.0 / <f64>(2 * reach + 1)));
  for (let o: usize = end; o < end + 16; o += 4) store<f32>(rawGain + o, 0);
  for (let o: usize = 0; o < end; o += 16) {
    let sum = f32x4.splat(0);
    for (let d: usize = 0; d <= 2 * span; d += 4) sum = f32x4.add(sum, v128.load(rawGain + o - span + d));
    v128.store(smoothed + o, f32x4.mul(sum, part));
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
 * Takes a hop of samples at the end of `history`, reduces the noise of the frame that is `lookAhead` hops older, and adds
 * it to `overlap`, whose first hop is then finished. mode: 0 the profile as it stands, 1 it follows by `speed` every
 * fourth frame (each of more than 2048) within `most` times its level, 2 tracked at this pace after the first `most` frames. What the
 * trunk of the gain network said of the hop before is in `bandMaps` by then; what it is to hear next is in `bandFeatures` after.
 */
export function reduceHop(mode: i32, memory_: f32, minSnr: f32, threshold: f32, reach: i32, opening: f32, closing: f32, speed: f32, most: f32): void {
  const bytes = <usize>(size << 2);
  const hop = bytes >> 2;
  if (opinionShare > 0) hearOpinion();
  memory.copy(frame, history, bytes);
  memory.copy(history, history + hop, bytes - hop);
  multiplyByWindow();
  forward();
  keepFrame(frames % (lookAhead + 1));
  if (mode == FOLLOWED && frames % followEvery == 0) noiseFollow(power, share, speed, most);
  if (mode > FOLLOWED) noiseTrack(power, share, speed, <i32>most);
  hearFrame(power, threshold);
  if (modelled) {
    gainModelHear(power, noisePower, threshold);
    gainModelSay();
  }
  frames++;
  memory.copy(overlap, overlap + hop, bytes - hop);
  memory.fill(overlap + bytes - hop, 0, hop);
  if (frames <= lookAhead) return;
  takeFrame(frames % (lookAhead + 1));
  weighFrame(memory_, minSnr, threshold, reach, opening, closing);
  inverse();
  multiplyByWindow();
  for (let o: usize = 0; o < bytes; o += 16) v128.store(overlap + o, f32x4.add(v128.load(overlap + o), v128.load(frame + o)));
}

function hearOpinion(): void {
  memory.copy(frame, opinionFrame, size << 2);
  multiplyByWindow();
  forward();
  for (let o: usize = 0, end = <usize>(bins << 2); o < end; o += 16) {
    const x = v128.load(binRe + o);
    const y = v128.load(binIm + o);
    v128.store(opinionPower + o, f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)));
  }
}

/** Keeps the spectrum in its slot, and its power. */
function keepFrame(slot: i32): void {
  const re = slots + <usize>(slot * 2 * slotBytes);
  const im = re + <usize>slotBytes;
  for (let o: usize = 0, end = <usize>(bins << 2); o < end; o += 16) {
    const x = v128.load(binRe + o);
    const y = v128.load(binIm + o);
    v128.store(re + o, x);
    v128.store(im + o, y);
    v128.store(power + o, f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)));
  }
}

function takeFrame(slot: i32): void {
  const re = slots + <usize>(slot * 2 * slotBytes);
  memory.copy(binRe, re, bins << 2);
  memory.copy(binIm, re + <usize>slotBytes, bins << 2);
}

/** Weighs the spectrum at hand. opening and closing: share of the step taken a frame. */
export function weighFrame(memory: f32, minSnr: f32, threshold: f32, reach: i32, opening: f32, closing: f32): void {
  for (let o: usize = 0, end = <usize>bins << 2; o < end; o += 16) {
    const re = v128.load(binRe + o);
    const im = v128.load(binIm + o);
    v128.store(weighedPower + o, f32x4.add(f32x4.mul(re, re), f32x4.mul(im, im)));
  }
  const known = modelled ? modelledBins & ~3 : 0;
  if (modelled) estimateModelled(threshold, known);
  estimateGains(memory, minSnr, threshold, known);
  if (reach > 0) smoothOverFrequency(reach);
  const end = <usize>(bins << 2);
  const zero = f32x4.splat(0);
  const up = f32x4.splat(opening);
  const down = f32x4.splat(closing);
  for (let o: usize = 0; o < end; o += 16) {
    const before = v128.load(gain + o);
    const step = f32x4.sub(v128.load(rawGain + o), before);
    const taken = v128.bitselect(up, down, f32x4.gt(step, zero));
    const g = f32x4.add(before, f32x4.mul(step, taken));
    v128.store(gain + o, g);
    v128.store(binRe + o, f32x4.mul(g, v128.load(binRe + o)));
    v128.store(binIm + o, f32x4.mul(g, v128.load(binIm + o)));
  }
}

function multiplyByWindow(): void {
  for (let o: usize = 0; o < <usize>(size << 2); o += 16) {
    v128.store(frame + o, f32x4.mul(v128.load(frame + o), v128.load(window + o)));
  }
}
