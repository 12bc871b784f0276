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

function runAll(frames: i32): void {
  for (let i: usize = 0; i < <usize>frames; i++) store<f64>(work + (i << 3), <f64>load<f32>(signal + (i << 2)));
  for (let pair = 0; pair < pairs; pair++) runPair(pair, frames);
}

/** Filters signal[0 … frames) in place. */
export function cascadeProcess(frames: i32): void {
  runAll(frames);
  for (let i: usize = 0; i < <usize>frames; i++) {
    const y = load<f64>(work + (i << 3));
    store<f32>(signal + (i << 2), abs(y) < SILENT ? 0 : <f32>y);
  }
}

/** Filters signal[0 … frames) and returns the sum of squares of the result, which is not kept. */
export function cascadeEnergy(frames: i32): f64 {
  runAll(frames);
  let sum: f64 = 0;
  for (let i: usize = 0; i < <usize>frames; i++) {
    const y = load<f64>(work + (i << 3));
    sum += y * y;
  }
  return sum;
}
