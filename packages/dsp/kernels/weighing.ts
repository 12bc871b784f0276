// Analysis and synthesis for treatments that weigh the bins of a short-time Fourier transform. Spectra wait in slots
// until their gains are known.
import { allocate } from './memory';
import { binIm, binRe, fftSetUp, forward, frame, inverse } from './fft';

let size: i32 = 0;
let binBytes: i32 = 0;
let slots: usize = 0;

/** The last `size` samples; the newest hop is filled from outside before each weighAnalyse. */
export let weighHistory: usize = 0;
export let weighWindow: usize = 0;
/** Sum of the windowed frames; its first hop is finished after each weighAdd. */
export let weighOverlap: usize = 0;
/** |X|² of the frame that came last. */
export let weighPower: usize = 0;
/** Gain of each bin, for weighAdd. */
export let weighGain: usize = 0;

export function weighSetUp(fftSize: i32, slotCount: i32): void {
  fftSetUp(fftSize);
  size = fftSize;
  binBytes = (((fftSize >> 1) + 1) << 2) + 12;
  const bytes = fftSize << 2;
  weighHistory = allocate(bytes);
  weighWindow = allocate(bytes);
  weighOverlap = allocate(bytes);
  weighPower = allocate(binBytes + 16);
  weighGain = allocate(binBytes + 16);
  slots = allocate(slotCount * 2 * (binBytes + 16));
}

// @ts-ignore: decorator
@inline
function slotAt(slot: i32): usize {
  return slots + <usize>(slot * 2 * (binBytes + 16));
}

/** Analyses the history into a slot and `weighPower`, and makes room for the next hop. */
export function weighAnalyse(slot: i32): void {
  const bytes = <usize>(size << 2);
  const hop = bytes >> 2;
  for (let o: usize = 0; o < bytes; o += 16) v128.store(frame + o, f32x4.mul(v128.load(weighHistory + o), v128.load(weighWindow + o)));
  memory.copy(weighHistory, weighHistory + hop, bytes - hop);
  forward();
  const re = slotAt(slot);
  const im = re + <usize>(binBytes + 16);
  for (let o: usize = 0; o < <usize>binBytes; o += 16) {
    const x = v128.load(binRe + o);
    const y = v128.load(binIm + o);
    v128.store(re + o, x);
    v128.store(im + o, y);
    v128.store(weighPower + o, f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)));
  }
}

/** Weighs a slot by `weighGain` if `weighed`, and adds its frame to the overlap. A slot below 0 adds silence. */
export function weighAdd(slot: i32, weighed: i32): void {
  const bytes = <usize>(size << 2);
  const hop = bytes >> 2;
  memory.copy(weighOverlap, weighOverlap + hop, bytes - hop);
  memory.fill(weighOverlap + bytes - hop, 0, hop);
  if (slot < 0) return;
  const re = slotAt(slot);
  const im = re + <usize>(binBytes + 16);
  if (weighed) {
    for (let o: usize = 0; o < <usize>binBytes; o += 16) {
      const g = v128.load(weighGain + o);
      v128.store(binRe + o, f32x4.mul(g, v128.load(re + o)));
      v128.store(binIm + o, f32x4.mul(g, v128.load(im + o)));
    }
  } else {
    memory.copy(binRe, re, binBytes);
    memory.copy(binIm, im, binBytes);
  }
  inverse();
  for (let o: usize = 0; o < bytes; o += 16)
    v128.store(weighOverlap + o, f32x4.add(v128.load(weighOverlap + o), f32x4.mul(v128.load(frame + o), v128.load(weighWindow + o))));
}
