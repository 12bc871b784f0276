// Inter-sample peaks: 4 x oversampling, or finer, with a polyphase FIR (ITU-R BS.1770-5, annex 2, asks for 4 x or more).
// Phase 0 is the sample itself; TypeScript designs the other phases, three or a multiple of it, and fills `taps`.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;

let tapCount: i32 = 0;
/** How often three phases are interpolated. */
let passes: i32 = 1;
/** Bytes from one channel's input, or envelope, to the next one's. */
let inputStride: usize = 0;
const ENVELOPE_STRIDE: usize = <usize>((MAX_FRAMES + 32) << 2);
/** Input of each channel with its history: tapCount - 1 past samples, then up to 4096 new ones; 32 of padding. */
export let peakInput: usize = 0;
/** Three rows a pass of tapCount coefficients, oldest sample first. */
export let taps: usize = 0;
/** Largest magnitude at or just after each sample, tapCount / 2 frames late; 4096 + 32 a channel. */
export let envelope: usize = 0;

export function truePeakSetUp(tapsPerPhase: i32, channels: i32, threesOfPhases: i32): void {
  tapCount = tapsPerPhase;
  passes = threesOfPhases;
  inputStride = <usize>((MAX_FRAMES + tapsPerPhase + 32) << 2);
  peakInput = allocate(<i32>inputStride * channels);
  taps = allocate((3 * passes * tapsPerPhase) << 2);
  envelope = allocate(<i32>ENVELOPE_STRIDE * channels);
}

/** Frames that are skipped or interpolated together. */
const GROUP_FRAMES: i32 = 32;

/**
 * Fills envelope[0 … frames) from the input, then shifts the history. `bound` is the largest factor by which
 * interpolation can exceed the samples (the sum of the taps' magnitudes): a group that cannot reach `limit`
 * gets its sample magnitudes instead of the interpolated ones. limit = 0 interpolates everything.
 */
export function truePeakProcess(channel: i32, frames: i32, limit: f32, bound: f32): void {
  const x = peakInput + inputStride * <usize>channel;
  const peaks = envelope + ENVELOPE_STRIDE * <usize>channel;
  const centre = <usize>((tapCount >> 1) - 1) << 2;
  const row = <usize>(tapCount << 2);
  const end = <usize>(frames << 2);
  const group = <usize>(GROUP_FRAMES << 2);
  for (let g: usize = 0; g < end; g += group) {
    const groupEnd = min(end, g + group);
    let most = f32x4.splat(0);
    for (let n = g; n < groupEnd + row; n += 16) most = f32x4.max(most, f32x4.abs(v128.load(x + n)));
    const top = max(
      max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
      max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
    );
    if (top * bound < limit || top == 0) {
      for (let n = g; n < groupEnd; n += 16) v128.store(peaks + n, f32x4.abs(v128.load(x + n + centre)));
    } else interpolate(x, peaks, g, groupEnd, centre, row, limit);
  }
  memory.copy(x, x + end, <usize>((tapCount - 1) << 2));
}

/** What lies between the first phases is no higher than this times what is on them: they are 0.3 samples apart at most. */
const BETWEEN: f32 = 1.2;

function interpolate(input: usize, peaks: usize, from: usize, to: usize, centre: usize, row: usize, limit: f32): void {
  for (let n = from; n < to; n += 16) {
    let peak = f32x4.abs(v128.load(input + n + centre));
    for (let pass = 0; pass < passes; pass++) {
      const rows = taps + 3 * row * <usize>pass;
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      let c = f32x4.splat(0);
      for (let t: usize = 0; t < row; t += 4) {
        const x = v128.load(input + n + t);
        a = f32x4.add(a, f32x4.mul(x, v128.load_splat<f32>(rows + t)));
        b = f32x4.add(b, f32x4.mul(x, v128.load_splat<f32>(rows + row + t)));
        c = f32x4.add(c, f32x4.mul(x, v128.load_splat<f32>(rows + 2 * row + t)));
      }
      peak = f32x4.max(peak, f32x4.max(f32x4.abs(a), f32x4.max(f32x4.abs(b), f32x4.abs(c))));
      // Nothing here can reach the limit: the other phases need not be known.
      if (!v128.any_true(f32x4.ge(f32x4.mul(peak, f32x4.splat(BETWEEN)), f32x4.splat(limit)))) break;
    }
    v128.store(peaks + n, peak);
  }
}

/** Address of a channel's newest samples, and of its envelope. */
export function peakNewest(channel: i32): usize {
  return peakInput + inputStride * <usize>channel + (<usize>(tapCount - 1) << 2);
}
export function peakEnvelope(channel: i32): usize {
  return envelope + ENVELOPE_STRIDE * <usize>channel;
}
