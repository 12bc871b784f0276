import { Cascade } from '../filters/cascade.js';
import type { Section } from '../filters/sections.js';
import type { KernelModule } from '../kernels/instance.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';

/** Mean square of a band of a sound, step by step. Steps have up to MAX_BLOCK_FRAMES frames. */
export function stepPowers(kernels: KernelModule, band: readonly Section[], sound: Float32Array, stepFrames: number): number[] {
  const filter = new Cascade(kernels, band);
  const block = new Float32Array(MAX_BLOCK_FRAMES);
  const powers: number[] = [];
  for (let at = 0; at + stepFrames <= sound.length; at += stepFrames) {
    block.set(sound.subarray(at, at + stepFrames));
    filter.process(block, 0, stepFrames);
    let sum = 0;
    for (let n = 0; n < stepFrames; n++) sum += block[n]! ** 2;
    powers.push(sum / stepFrames);
  }
  return powers;
}
