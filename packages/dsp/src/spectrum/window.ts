import { DspError } from '../errors.js';

/** Frames overlap by 75 %. */
export const HOPS_PER_FRAME = 4;

/**
 * Frame size for a sample rate: the power of two nearest to 43 ms, 256 to 8192. 2048 at 44.1 and 48 kHz.
 * @throws {DspError} `sample-rate` outside 8 … 192 kHz.
 */
export function frameSizeFor(sampleRateHz: number): number {
  if (!(sampleRateHz >= 8000 && sampleRateHz <= 192000))
    throw new DspError('sample-rate', `Sample rates from 8000 to 192000 Hz are treated; this is ${sampleRateHz} Hz.`, { sampleRateHz });
  return 2 ** Math.round(Math.log2(sampleRateHz * 0.0427));
}

/** Periodic Hann window. */
export const hannWindow = (size: number): Float32Array =>
  Float32Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));

/** √(Hann / 2): used before and after, it adds up to exactly one at 75 % overlap. */
export const analysisWindow = (size: number): Float32Array =>
  Float32Array.from({ length: size }, (_, n) => Math.sqrt((0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size)) / 2));
