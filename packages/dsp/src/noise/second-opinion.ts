import { DspError } from '../errors.js';
import type { Memory } from '../memory.js';

/** The suppressor works at this rate, in frames of this many samples, and its speech comes out so much later. */
export const OPINION_RATE_HZ = 48000;
export const OPINION_FRAMES = 480;
export const OPINION_LAG_FRAMES = 960;

/** One channel of a suppressor network: frames of OPINION_FRAMES in, speech as it is taken to be out, in place; full scale ±1. */
export interface Suppressor {
  process(frame: Float32Array): void;
  reset(): void;
  /** All that it knows of what it heard. */
  remember(memory: Memory): void;
}

let create: (() => Suppressor) | undefined;

/** Hands over how a suppressor is made, once its module is there (packages/second-opinion: it comes with 5 MB and not everywhere). */
export function provideSuppressor(make: () => Suppressor): void {
  create = make;
}

/** @throws {DspError} `opinion-missing` when nobody has loaded it before. */
export function createSuppressor(): Suppressor {
  if (!create)
    throw new DspError(
      'opinion-missing',
      'The deep network asks a second one, which was not loaded. Your sound is unchanged; choose the full network, or load it first (readyFor).',
    );
  return create();
}
