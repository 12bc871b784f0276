// Second-order sections in series, two at a time: one lane runs section A on sample n while the other runs
// section B on A's output for sample n - 1. Direct form II transposed in doubles.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;
// Added at every section's input: without it, states decay into subnormal numbers in digital silence and
// each operation costs many times as much. -360 dBFS is far below anything that a 32-bit float file holds.
const KEEP_NORMAL: f64 = 1e-18;
// What the offset leaves of silence goes out as silence: squared in 32 bits, further on, it would be subnormal itself.
const SILENT: f64 = 1e-15;

let pairs: i32 = 0;
let work: usize = 0;
/** Ten doubles a pair: b0A b0B b1A b1B b2A b2B a1A a1B a2A a2B. */
export let coefficients: usize = 0;
/** Four doubles a pair: sA sB tA tB. */
export let sectionState: usize = 0;
/** Up to 4096 samples, filtered in place. */
export let signal: usize = 0;

export function cascadeSetUp(pairCount: i32): void {
  pairs = pairCount;
  coefficients = allocate(pairCount * 80);
  sectionState = allocate(pairCount * 32);
  signal = allocate(MAX_FRAMES << 2);
  work = allocate((MAX_FRAMES + 1) << 3);
}

function runPair(pair: i32, frames: i32): void {
  const c = coefficients + <usize>(pair * 80);
  const z = sectionState + <usize>(pair * 32);
  const b0 = v128.load(c);
  const b1 = v128.load(c, 16);
  const b2 = v128.load(c, 32);
  const a1 = v128.load(c, 48);
  const a2 = v128.load(c, 64);
  const tiny = f64x2.splat(KEEP_NORMAL);
  // Section A alone on the first sample.
  const first = load<f64>(work) + KEEP_NORMAL;
  const firstOut = f64x2.extract_lane(b0, 0) * first + load<f64>(z);
  let s = f64x2.replace_lane(
    v128.load(z), 0,
    f64x2.extract_lane(b1, 0) * first + load<f64>(z, 16) - f64x2.extract_lane(a1, 0) * firstOut,
  );
  let t = f64x2.replace_lane(v128.load(z, 16), 0, f64x2.extract_lane(b2, 0) * first - f64x2.extract_lane(a2, 0) * firstOut);
  let y = f64x2.splat(firstOut);
  let at = work;
  const end = work + <usize>((frames - 1) << 3);
  while (at < end) {
    // Lane 0: the next sample; lane 1: what section A just put out.
    const x = f64x2.add(f64x2.replace_lane(v128.shuffle<f64>(y, y, 0, 0), 0, load<f64>(at, 8)), tiny);
    y = f64x2.add(f64x2.mul(b0, x), s);
    s = f64x2.sub(f64x2.add(f64x2.mul(b1, x), t), f64x2.mul(a1, y));
    t = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    store<f64>(at, f64x2.extract_lane(y, 1));
    at += 8;
  }
  // Section B alone on the last sample.
  const last = f64x2.extract_lane(y, 0) + KEEP_NORMAL;
  const sB = f64x2.extract_lane(s, 1);
  const lastOut = f64x2.extract_lane(b0, 1) * last + sB;
  store<f64>(at, lastOut);
  s = f64x2.replace_lane(s, 1, f64x2.extract_lane(b1, 1) * last + f64x2.extract_lane(t, 1) - f64x2.extract_lane(a1, 1) * lastOut);
  t = f64x2.replace_lane(t, 1, f64x2.extract_lane(b2, 1) * last - f64x2.extract_lane(a2, 1) * lastOut);
  v128.store(z, s);
  v128.store(z, t, 16);
}

/**
 * Two pairs in one loop: the second works on what the first has just put out. Each waits for its own last result
 * only, so the processor does both in little more than the time of one. The same operations as runPair twice.
 * frames: 2 or more.
 */
function runTwoPairs(pair: i32, frames: i32): void {
  const c = coefficients + <usize>(pair * 80);
  const z = sectionState + <usize>(pair * 32);
  const b0 = v128.load(c);
  const b1 = v128.load(c, 16);
  const b2 = v128.load(c, 32);
  const a1 = v128.load(c, 48);
  const a2 = v128.load(c, 64);
  const e0 = v128.load(c, 80);
  const e1 = v128.load(c, 96);
  const e2 = v128.load(c, 112);
  const d1 = v128.load(c, 128);
  const d2 = v128.load(c, 144);
  const tiny = f64x2.splat(KEEP_NORMAL);
  // The first pair: section A alone on the first sample, then both once.
  const first = load<f64>(work) + KEEP_NORMAL;
  const firstOut = f64x2.extract_lane(b0, 0) * first + load<f64>(z);
  let s = f64x2.replace_lane(
    v128.load(z), 0,
    f64x2.extract_lane(b1, 0) * first + load<f64>(z, 16) - f64x2.extract_lane(a1, 0) * firstOut,
  );
  let t = f64x2.replace_lane(v128.load(z, 16), 0, f64x2.extract_lane(b2, 0) * first - f64x2.extract_lane(a2, 0) * firstOut);
  let x = f64x2.add(f64x2.replace_lane(f64x2.splat(firstOut), 0, load<f64>(work, 8)), tiny);
  let y = f64x2.add(f64x2.mul(b0, x), s);
  s = f64x2.sub(f64x2.add(f64x2.mul(b1, x), t), f64x2.mul(a1, y));
  t = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
  // The second pair: its section A alone on the first result.
  const second = f64x2.extract_lane(y, 1) + KEEP_NORMAL;
  const secondOut = f64x2.extract_lane(e0, 0) * second + load<f64>(z, 32);
  let u = f64x2.replace_lane(
    v128.load(z, 32), 0,
    f64x2.extract_lane(e1, 0) * second + load<f64>(z, 48) - f64x2.extract_lane(d1, 0) * secondOut,
  );
  let v = f64x2.replace_lane(v128.load(z, 48), 0, f64x2.extract_lane(e2, 0) * second - f64x2.extract_lane(d2, 0) * secondOut);
  let w = f64x2.splat(secondOut);
  let at = work + 8;
  const end = work + <usize>((frames - 1) << 3);
  while (at < end) {
    x = f64x2.add(f64x2.replace_lane(v128.shuffle<f64>(y, y, 0, 0), 0, load<f64>(at, 8)), tiny);
    y = f64x2.add(f64x2.mul(b0, x), s);
    s = f64x2.sub(f64x2.add(f64x2.mul(b1, x), t), f64x2.mul(a1, y));
    t = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    // Lane 0: what the first pair just put out; lane 1: what section A of the second put out before.
    x = f64x2.add(v128.shuffle<f64>(y, w, 1, 2), tiny);
    w = f64x2.add(f64x2.mul(e0, x), u);
    u = f64x2.sub(f64x2.add(f64x2.mul(e1, x), v), f64x2.mul(d1, w));
    v = f64x2.sub(f64x2.mul(e2, x), f64x2.mul(d2, w));
    store<f64>(at - 8, f64x2.extract_lane(w, 1));
    at += 8;
  }
  // The last sample: section B of the first pair, the second pair once more, its section B.
  const last = f64x2.extract_lane(y, 0) + KEEP_NORMAL;
  const lastOut = f64x2.extract_lane(b0, 1) * last + f64x2.extract_lane(s, 1);
  s = f64x2.replace_lane(s, 1, f64x2.extract_lane(b1, 1) * last + f64x2.extract_lane(t, 1) - f64x2.extract_lane(a1, 1) * lastOut);
  t = f64x2.replace_lane(t, 1, f64x2.extract_lane(b2, 1) * last - f64x2.extract_lane(a2, 1) * lastOut);
  v128.store(z, s);
  v128.store(z, t, 16);
  x = f64x2.add(f64x2.replace_lane(v128.shuffle<f64>(w, w, 0, 0), 0, lastOut), tiny);
  w = f64x2.add(f64x2.mul(e0, x), u);
  u = f64x2.sub(f64x2.add(f64x2.mul(e1, x), v), f64x2.mul(d1, w));
  v = f64x2.sub(f64x2.mul(e2, x), f64x2.mul(d2, w));
  store<f64>(end - 8, f64x2.extract_lane(w, 1));
  const tail = f64x2.extract_lane(w, 0) + KEEP_NORMAL;
  const tailOut = f64x2.extract_lane(e0, 1) * tail + f64x2.extract_lane(u, 1);
  store<f64>(end, tailOut);
  u = f64x2.replace_lane(u, 1, f64x2.extract_lane(e1, 1) * tail + f64x2.extract_lane(v, 1) - f64x2.extract_lane(d1, 1) * tailOut);
  v = f64x2.replace_lane(v, 1, f64x2.extract_lane(e2, 1) * tail - f64x2.extract_lane(d2, 1) * tailOut);
  v128.store(z, u, 32);
  v128.store(z, v, 48);
}

function runAll(frames: i32): void {
  for (let i: usize = 0; i < <usize>frames; i++) store<f64>(work + (i << 3), <f64>load<f32>(signal + (i << 2)));
  let pair = 0;
  if (frames >= 2) for (; pair + 2 <= pairs; pair += 2) runTwoPairs(pair, frames);
  for (; pair < pairs; pair++) runPair(pair, frames);
}

/** Filters signal[0 … frames) in place. */
export function cascadeProcess(frames: i32): void {
  runAll(frames);
  for (let i: usize = 0; i < <usize>frames; i++) {
    const y = load<f64>(work + (i << 3));
    store<f32>(signal + (i << 2), abs(y) < SILENT ? 0 : <f32>y);
  }
}

/** Of what the last cascadeEnergy was given: its sum of squares, and its largest magnitude. */
export let givenEnergy: f64 = 0;
export let givenPeak: f32 = 0;

/** Filters signal[0 … frames) and returns the sum of squares of the result, which is not kept. */
export function cascadeEnergy(frames: i32): f64 {
  lookAt(frames);
  runAll(frames);
  let sum: f64 = 0;
  for (let i: usize = 0; i < <usize>frames; i++) {
    const y = load<f64>(work + (i << 3));
    sum += y * y;
  }
  return sum;
}

function lookAt(frames: i32): void {
  let squares = f64x2.splat(0);
  let most = f32x4.splat(0);
  const whole = frames & ~3;
  for (let o: usize = 0, end = <usize>whole << 2; o < end; o += 16) {
    const x = v128.load(signal + o);
    most = f32x4.pmax(most, f32x4.abs(x));
    const low = f64x2.promote_low_f32x4(x);
    const high = f64x2.promote_low_f32x4(v128.shuffle<f32>(x, x, 2, 3, 2, 3));
    squares = f64x2.add(squares, f64x2.add(f64x2.mul(low, low), f64x2.mul(high, high)));
  }
  let energy = f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1);
  let peak = max<f32>(
    max<f32>(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max<f32>(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
  for (let n = whole; n < frames; n++) {
    const x = load<f32>(signal + (<usize>n << 2));
    energy += <f64>x * <f64>x;
    peak = max<f32>(peak, abs<f32>(x));
  }
  givenEnergy = energy;
  givenPeak = peak;
}
