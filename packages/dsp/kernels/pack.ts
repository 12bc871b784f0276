// Samples as whole numbers of 24 bits, as they lie in a file: least byte first, channel beside channel.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;
const SCALE: f64 = 8388608;

let packChannels: i32 = 0;
/** 4096 samples a channel, one channel after the other. */
export let packInput: usize = 0;
/** What goes to the file; a little more, since whole words are stored. */
export let packed: usize = 0;

export function packSetUp(channels: i32): void {
  packChannels = channels;
  packInput = allocate((MAX_FRAMES << 2) * channels);
  packed = allocate(3 * MAX_FRAMES * channels + 16);
}

/** Four samples as whole numbers of 24 bits, in twelve bytes (and four more, which the next ones overwrite). */
// @ts-ignore: decorator
@inline
function putFour(to: usize, x: v128): void {
  v128.store(to, i8x16.swizzle(v128.shuffle<i32>(wholes(x), wholes(v128.shuffle<f32>(x, x, 2, 3, 2, 3)), 0, 1, 4, 5), i8x16(0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, -1, -1, -1, -1)));
}

/** The lower two samples, in doubles, so that the half that is added is exact. */
// @ts-ignore: decorator
@inline
function wholes(x: v128): v128 {
  const scaled = f64x2.floor(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(x), f64x2.splat(SCALE)), f64x2.splat(0.5)));
  return i32x4.trunc_sat_f64x2_s_zero(f64x2.min(f64x2.splat(SCALE - 1), f64x2.max(f64x2.splat(-SCALE), scaled)));
}

/** Rounded to the nearest step (halves upwards), held within full scale. */
export function pack24(frames: i32): void {
  let to = packed;
  let n = 0;
  if (packChannels == 1) for (; n + 4 <= frames; n += 4, to += 12) putFour(to, v128.load(packInput + (<usize>n << 2)));
  if (packChannels == 2)
    for (; n + 4 <= frames; n += 4, to += 24) {
      const left = v128.load(packInput + (<usize>n << 2));
      const right = v128.load(packInput + (<usize>(MAX_FRAMES + n) << 2));
      putFour(to, v128.shuffle<f32>(left, right, 0, 4, 1, 5));
      putFour(to + 12, v128.shuffle<f32>(left, right, 2, 6, 3, 7));
    }
  for (; n < frames; n++) {
    for (let c = 0; c < packChannels; c++) {
      const x = <f64>load<f32>(packInput + (<usize>(c * MAX_FRAMES + n) << 2)) * SCALE + 0.5;
      store<i32>(to, <i32>min(SCALE - 1, max(-SCALE, floor(x))));
      to += 3;
    }
  }
}

/** State of the noise that is added; never zero. */
export let ditherState: u32 = 0x9e3779b9;

/** Evenly spread over [0, 1): Marsaglia's xorshift (2003), 13, 17, 5. */
// @ts-ignore: decorator
@inline
function even(): f64 {
  let x = ditherState;
  x ^= x << 13;
  x ^= x >> 17;
  x ^= x << 5;
  ditherState = x;
  return <f64>x * (1.0 / 4294967296.0);
}

/**
 * Whole numbers of 16 or 24 bits. Where bits are lost, noise of two steps with a triangular density goes before the rounding, so that the
 * error is a noise of its own that knows nothing of the sound (Lipshitz, Wannamaker & Vanderkooy 1992). A sample that lies on a step
 * loses nothing and stays: what was not worked on comes out as it went in.
 */
export function packDithered(frames: i32, bits: i32): void {
  const scale = <f64>(1 << (bits - 1));
  let to = packed;
  for (let n = 0; n < frames; n++)
    for (let c = 0; c < packChannels; c++) {
      const x = <f64>load<f32>(packInput + (<usize>(c * MAX_FRAMES + n) << 2)) * scale;
      // The noise goes on whether it is needed or not.
      const noise = even() - even();
      const whole = x == floor(x) ? x : floor(x + noise + 0.5);
      const held = <i32>min(scale - 1, max(-scale, whole));
      if (bits == 16) store<i16>(to, <i16>held);
      else store<i32>(to, held);
      to += bits >> 3;
    }
}

/** The same without noise, for 16 bits. */
export function pack16(frames: i32): void {
  let to = packed;
  for (let n = 0; n < frames; n++)
    for (let c = 0; c < packChannels; c++, to += 2) {
      const x = <f64>load<f32>(packInput + (<usize>(c * MAX_FRAMES + n) << 2)) * 32768;
      store<i16>(to, <i16><i32>min(32767.0, max(-32768.0, floor(x + 0.5))));
    }
}
