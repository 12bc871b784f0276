// Frames of a survey: power spectrum of each, and by class the sums of spectra and of X(t) conj X(t - 1).
import { allocate } from './memory';
import { binIm, binRe, fftSetUp, forward, frame } from './fft';

let size: i32 = 0;
let binBytes: i32 = 0;
let scale: f32 = 1;
let lastRe: usize = 0;
let lastIm: usize = 0;

/** The last `size` samples; the second half is filled from outside before each classAnalyse. */
export let classHistory: usize = 0;
export let classWindow: usize = 0;
/** Mean square by bin of the frame at hand. */
export let classPower: usize = 0;
/** By class, `classStride` floats apart: sum of the power, then real and imaginary part of the cross spectra. */
export let classSums: usize = 0;
export let classStride: i32 = 0;

export function classSetUp(fftSize: i32, classes: i32, powerScale: f32): void {
  fftSetUp(fftSize);
  size = fftSize;
  scale = powerScale;
  classStride = (((fftSize >> 1) + 1) + 7) & ~3;
  binBytes = classStride << 2;
  classHistory = allocate(fftSize << 2);
  classWindow = allocate(fftSize << 2);
  classPower = allocate(binBytes);
  lastRe = allocate(binBytes);
  lastIm = allocate(binBytes);
  classSums = allocate(classes * 3 * binBytes);
}

/** Windows the history, transforms it, writes `classPower`, and makes room for the next half. */
export function classAnalyse(): void {
  const bytes = <usize>(size << 2);
  for (let o: usize = 0; o < bytes; o += 16) v128.store(frame + o, f32x4.mul(v128.load(classHistory + o), v128.load(classWindow + o)));
  memory.copy(classHistory, classHistory + (bytes >> 1), bytes >> 1);
  forward();
  const by = f32x4.splat(scale);
  for (let o: usize = 0; o < <usize>binBytes - 16; o += 16) {
    const re = v128.load(binRe + o);
    const im = v128.load(binIm + o);
    v128.store(classPower + o, f32x4.mul(by, f32x4.add(f32x4.mul(re, re), f32x4.mul(im, im))));
  }
}

/** Adds the frame at hand to a class. */
export function classAdd(index: i32): void {
  const sum = classSums + <usize>(index * 3 * binBytes);
  const crossRe = sum + <usize>binBytes;
  const crossIm = crossRe + <usize>binBytes;
  for (let o: usize = 0; o < <usize>binBytes - 16; o += 16) {
    const a = v128.load(binRe + o);
    const b = v128.load(binIm + o);
    const c = v128.load(lastRe + o);
    const d = v128.load(lastIm + o);
    v128.store(sum + o, f32x4.add(v128.load(sum + o), v128.load(classPower + o)));
    v128.store(crossRe + o, f32x4.add(v128.load(crossRe + o), f32x4.add(f32x4.mul(a, c), f32x4.mul(b, d))));
    v128.store(crossIm + o, f32x4.add(v128.load(crossIm + o), f32x4.sub(f32x4.mul(b, c), f32x4.mul(a, d))));
    v128.store(lastRe + o, a);
    v128.store(lastIm + o, b);
  }
}
