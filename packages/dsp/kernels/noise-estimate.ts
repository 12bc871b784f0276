// The noise as it is taken to be now, bin by bin: a profile as it stands, a profile that follows slow changes of level,
// or tracked all the time by speech presence (Gerkmann & Hendriks 2012), here held up by the speech model.
import { allocate } from './memory';
import { log2 } from './logarithm';
import { exp4 } from './speech-model';

/** A-priori SNR that stands for speech, 15 dB (Gerkmann & Hendriks 2012, section III). */
const PRIOR: f32 = 31.6228;
const LIKELIHOOD: f32 = PRIOR / (1 + PRIOR);
/** Smoothing of the tracked power, their eq. 8; 0.8 at a hop of 16 ms there, slower here, since the noise is taken to be steady. */
const KEPT: f32 = 0.97;
/** Regions that a followed profile moves by itself, each a third to half of an octave. */
const REGIONS: i32 = 22;
/** Three quarters of a decibel: as far as regions of steady noise wander (four of the training's noises). */
const CLOSE_LOG2: f32 = 0.25;
/** A fiftieth, log2. */
const LEAST_STEP: f32 = -5.643856;

let bins: i32 = 0;
/** Noise power by bin, threshold not included. */
export let noisePower: usize = 0;
/** What a profile says; followed from there. */
export let profilePower: usize = 0;
/** The mean level of its frames, as power; zeros where a profile is followed by its mean power. */
export let typicalPower: usize = 0;
/** Level of the frame at hand over that, by bin, log2. */
let over: usize = 0;
/** What the tracked noise was over the last second or so: it rises to no more than MOST_OVER_SLOW times that. */
export let noiseSlow: usize = 0;
const MOST_OVER_SLOW: f32 = 2;
/** Speech presence over the last frames, by bin: where it never ends, it is no speech (their eq. 23 and 24). */
export let noisePresence: usize = 0;
const STUCK: f32 = 0.99;
/** Digital silence, before a recording or in it, is no noise that has sunk: mean power of a bin below some -130 dBFS. */
const SILENT_POWER: f32 = 1e-10;
/** Mean power of a bin below which the beginning of a recording is faded in, not a room; and how much louder what follows then is. */
const FADED_POWER: f32 = 1e-7;
const FADED_RISE: f32 = 30;
/**
 * The least power of the last seconds, by bin, smoothed over a few frames: no noise lies below it, whatever was taken for
 * speech since. Two windows in turn; together they are longer than any held vowel.
 */
export let noiseSmooth: usize = 0;
export let noiseLeastNow: usize = 0;
export let noiseLeastBefore: usize = 0;
const WINDOW_LEARNS: i32 = 10;
const SMOOTH: f32 = 0.85;
/** Level of each region against the profile, and its first bin. */
export let noiseRegionGain: usize = 0;
let regionStart: usize = 0;
/** Frames heard so far. */
export let noiseFrames: i32 = 0;

export function noiseEstimateSetUp(binCount: i32): void {
  bins = binCount;
  const bytes = (binCount << 2) + 32;
  noisePower = allocate(bytes);
  profilePower = allocate(bytes);
  typicalPower = allocate(bytes);
  over = allocate(bytes);
  noiseSlow = allocate(bytes);
  noisePresence = allocate(bytes);
  noiseSmooth = allocate(bytes);
  noiseLeastNow = allocate(bytes);
  noiseLeastBefore = allocate(bytes);
  noiseRegionGain = allocate((REGIONS + 1) << 2);
  regionStart = allocate((REGIONS + 2) << 2);
  // From bin 2 on, each region reaches further by the same factor.
  const factor = Math.pow(<f64>binCount / 4, 1.0 / <f64>(REGIONS - 1));
  for (let r = 1; r < REGIONS; r++) store<i32>(regionStart + (<usize>r << 2), <i32>Math.round(4 * Math.pow(factor, <f64>(r - 1))));
  store<i32>(regionStart + (<usize>REGIONS << 2), binCount);
}

/** Back to the profile, or to nothing known yet. */
export function noiseEstimateReset(): void {
  noiseFrames = 0;
  memory.copy(noisePower, profilePower, bins << 2);
  memory.fill(noisePresence, 0, bins << 2);
  for (let r = 0; r < REGIONS; r++) store<f32>(noiseRegionGain + (<usize>r << 2), 1);
}

/**
 * Tracks the noise in a frame. It rises to twice what it was lately at most, and `pace` is the share of the way that
 * this takes a frame: a held vowel is over before it is learnt. The first `learn` frames count in full, as long as they
 * get no louder.
 */
export function noiseTrack(power: usize, share: usize, pace: f32, learn: i32): void {
  const end = <usize>bins << 2;
  const mean = meanPower(power);
  if (mean < SILENT_POWER) return;
  if (noiseFrames < learn) {
    const known: f32 = noiseFrames == 0 ? 0 : meanPower(noisePower);
    if (known > 0 && known < FADED_POWER && mean > FADED_RISE * known) noiseFrames = 0;
    const weight: f32 = 1 / <f32>(noiseFrames + 1);
    for (let o: usize = 0; o < end; o += 4) {
      const p = load<f32>(power + o);
      const n = load<f32>(noisePower + o);
      // Ten decibels over what was heard so far are not noise that settles.
      store<f32>(noisePower + o, noiseFrames == 0 ? p : n + weight * (min<f32>(p, 10 * n) - n));
    }
    memory.copy(noiseSlow, noisePower, end);
    memory.copy(noiseSmooth, noisePower, end);
    memory.copy(noiseLeastNow, noisePower, end);
    memory.copy(noiseLeastBefore, noisePower, end);
    noiseFrames++;
    return;
  }
  if (++noiseFrames % (WINDOW_LEARNS * learn) == 0) {
    memory.copy(noiseLeastBefore, noiseLeastNow, end);
    memory.copy(noiseLeastNow, noiseSmooth, end);
  }
  const one = f32x4.splat(1);
  for (let o: usize = 0; o < end; o += 16) {
    const p = v128.load(power + o);
    const n = v128.load(noisePower + o);
    const known = v128.load(noiseSlow + o);
    const post = f32x4.pmin(f32x4.splat(60), f32x4.mul(f32x4.splat(LIKELIHOOD), f32x4.div(p, f32x4.add(n, f32x4.splat(<f32>1e-20)))));
    // Their eq. 18; 1 - presence is what counts as noise, and what the model tells counts twice.
    const told = f32x4.div(one, f32x4.add(one, f32x4.mul(f32x4.splat(1 + PRIOR), exp4(f32x4.neg(post)))));
    const lately = f32x4.add(f32x4.mul(f32x4.splat(<f32>0.9), v128.load(noisePresence + o)), f32x4.mul(f32x4.splat(<f32>0.1), told));
    v128.store(noisePresence + o, lately);
    const stuck = f32x4.gt(lately, f32x4.splat(STUCK));
    const heard = v128.bitselect(f32x4.pmin(told, f32x4.splat(STUCK)), told, stuck);
    const clear = f32x4.sub(one, v128.load(share + o));
    const absent = f32x4.mul(f32x4.sub(one, heard), f32x4.mul(clear, clear));
    const next = f32x4.pmin(
      f32x4.add(n, f32x4.mul(f32x4.mul(f32x4.splat(1 - KEPT), absent), f32x4.sub(p, n))),
      f32x4.mul(f32x4.splat(MOST_OVER_SLOW), known),
    );
    const around = f32x4.add(p, f32x4.mul(f32x4.splat(SMOOTH), f32x4.sub(v128.load(noiseSmooth + o), p)));
    const least = f32x4.pmin(around, v128.load(noiseLeastNow + o));
    v128.store(noiseSmooth + o, around);
    v128.store(noiseLeastNow + o, least);
    const now = f32x4.pmax(next, f32x4.pmin(least, v128.load(noiseLeastBefore + o)));
    v128.store(noisePower + o, now);
    v128.store(noiseSlow + o, f32x4.add(known, f32x4.mul(f32x4.splat(pace), f32x4.sub(now, known))));
  }
}

function meanPower(power: usize): f32 {
  let sum = f32x4.splat(0);
  for (let o: usize = 0, end = <usize>(bins & ~3) << 2; o < end; o += 16) sum = f32x4.add(sum, v128.load(power + o));
  return (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)) / <f32>bins;
}

/**
 * Lets the profile follow slow changes: each region by the frames without speech, `speed` of the way a frame, within `most` times.
 * Levels are held against the mean level of the profile's own frames: a noise of short bursts, whose mean power is that of the bursts,
 * is then no noise that has sunk while they are excluded as speech.
 */
export function noiseFollow(power: usize, share: usize, speed: f32, most: f32): void {
  const byLevel = load<f32>(typicalPower) > 0;
  if (byLevel)
    for (let o: usize = 0, end = <usize>bins << 2; o < end; o += 16)
      v128.store(over + o, log2(f32x4.div(f32x4.add(v128.load(power + o), f32x4.splat(<f32>1e-20)), v128.load(typicalPower + o))));
  for (let r = 0; r < REGIONS; r++) {
    const at = noiseRegionGain + (<usize>r << 2);
    const gain = load<f32>(at);
    const step = regionStep(r, power, share, byLevel);
    store<f32>(at, max<f32>(1 / most, min<f32>(most, gain * <f32>Math.pow(2, <f64>(speed * step)))));
  }
  for (let r = 0; r < REGIONS; r++) {
    const moved = load<f32>(noiseRegionGain + (<usize>r << 2));
    const gain = byLevel ? past(moved) : moved;
    const to = load<i32>(regionStart + (<usize>(r + 1) << 2));
    for (let k = load<i32>(regionStart + (<usize>r << 2)); k < to; k++) {
      const o = <usize>k << 2;
      store<f32>(noisePower + o, gain * load<f32>(profilePower + o));
    }
  }
}

/** A steady noise is the profile as it stands: what a region moves up to CLOSE_LOG2 is the chance of the frames at hand. */
function past(moved: f32): f32 {
  const step = <f32>Math.log2(<f64>moved);
  return <f32>Math.pow(2, <f64>(step > CLOSE_LOG2 ? step - CLOSE_LOG2 : step < -CLOSE_LOG2 ? step + CLOSE_LOG2 : 0));
}

/**
 * How far a region should move, log2; less, the less of it is sure to be noise. By the mean of what its bins have over the profile: of
 * their level (log2, against where the region stands), or of their power against the noise as it is now.
 */
function regionStep(region: i32, power: usize, share: usize, byLevel: bool): f32 {
  let sum: f32 = 0;
  let known: f32 = 0;
  const from = load<i32>(regionStart + (<usize>region << 2));
  const to = load<i32>(regionStart + (<usize>(region + 1) << 2));
  for (let k = from; k < to; k++) {
    const o = <usize>k << 2;
    const n = load<f32>(noisePower + o);
    const p = load<f32>(power + o);
    const q = load<f32>(share + o);
    // What is far above the noise is not noise; half-heard speech hardly counts. Power cut at ten times the noise has all but a
    // two-thousandth of its mean.
    const weight: f32 = p > 10 * n ? 0 : (1 - q) * (1 - q);
    sum += weight * (byLevel ? load<f32>(over + o) : p / (n + 1e-20));
    known += weight;
  }
  const sure = known / <f32>(to - from);
  if (sure <= 0.15) return 0;
  const gain = load<f32>(noiseRegionGain + (<usize>region << 2));
  const step: f32 = byLevel ? sum / known - <f32>Math.log2(<f64>gain) : <f32>Math.log2(<f64>(sum / known));
  // Digital silence, before a recording or in it, is no noise that has sunk.
  return step > LEAST_STEP ? sure * step : 0;
}
