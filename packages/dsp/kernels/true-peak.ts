// Inter-sample peaks: 4 x oversampling with a polyphase FIR (ITU-R BS.1770-5, annex 2, asks for 4 x or more).
// Phase 0 is the sample itself; TypeScript designs the other three phases and fills `taps`.
import { allocate } from './memory';

const MAX_FRAMES: i32 = 4096;

let tapCount: i32 = 0;
/** Input with its history: tapCount - 1 past samples, then up to 4096 new ones. */
export let peakInput: usize = 0;
/** Three rows of tapCount coefficients, oldest sample first. */
export let taps: usize = 0;
/** Largest magnitude at or just after each sample, tapCount / 2 frames late. */
export let envelope: usize = 0;

export function truePeakSetUp(tapsPerPhase: i32): void {
  tapCount = tapsPerPhase;
  peakInput = allocate((MAX_FRAMES + tapsPerPhase + 16) << 2);
  taps = allocate((3 * tapsPerPhase) << 2);
  envelope = allocate((MAX_FRAMES + 16) << 2);
}

/** Fills envelope[0 … frames) from the input, then shifts the history. */
export function truePeakProcess(frames: i32): void {
  const centre = <usize>((tapCount >> 1) - 1) << 2;
  const row = <usize>(tapCount << 2);
  for (let n: usize = 0; n < <usize>(frames << 2); n += 16) {
    let a = f32x4.splat(0);
    let b = f32x4.splat(0);
    let c = f32x4.splat(0);
    for (let t: usize = 0; t < row; t += 4) {
      const x = v128.load(peakInput + n + t);
      a = f32x4.add(a, f32x4.mul(x, v128.load_splat<f32>(taps + t)));
      b = f32x4.add(b, f32x4.mul(x, v128.load_splat<f32>(taps + row + t)));
      c = f32x4.add(c, f32x4.mul(x, v128.load_splat<f32>(taps + 2 * row + t)));
    }
    let peak = f32x4.abs(v128.load(peakInput + n + centre));
    peak = f32x4.max(peak, f32x4.max(f32x4.abs(a), f32x4.max(f32x4.abs(b), f32x4.abs(c))));
    v128.store(envelope + n, peak);
  }
  memory.copy(peakInput, peakInput + (<usize>frames << 2), <usize>((tapCount - 1) << 2));
}
