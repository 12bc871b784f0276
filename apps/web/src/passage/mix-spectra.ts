import { LongTermSpectrum, type KernelModule, type NoiseProfile, type ThirdOctave } from '@euphonos/dsp';
import type { Span } from '@euphonos/engine';
import { passMix, type TakeSound } from './mix-pass.js';
import type { WholeMix } from './mixed-sum.js';
import type { RestSound } from './rest-sound.js';

/** Long-term spectra of a mix, in third octaves: as it was recorded, and through everything; null of silence. */
export interface MixSpectra {
  readonly before: readonly ThirdOctave[] | null;
  readonly after: readonly ThirdOctave[] | null;
}

/** Long-term spectra of a span of a mix. Runs in a worker. */
export async function mixSpectra(
  kernels: KernelModule,
  rest: RestSound,
  mix: WholeMix,
  { startFrame, endFrame }: Span,
  profile?: NoiseProfile,
): Promise<MixSpectra> {
  const within = (spectrum: LongTermSpectrum): TakeSound => {
    let at = 0;
    return (channels, frames) => {
      const [from, to] = [Math.max(0, startFrame - at), Math.min(frames, endFrame - at)];
      if (from < to) spectrum.process(channels, from, to);
      at += frames;
    };
  };
  const [before, after] = [new LongTermSpectrum(mix.sampleRateHz), new LongTermSpectrum(mix.sampleRateHz)];
  // What comes later than the span is not heard.
  const heard = { ...mix, lengthFrames: Math.min(mix.lengthFrames, endFrame) };
  await passMix(kernels, rest, heard, profile, within(before), within(after));
  return { before: before.finish(), after: after.finish() };
}
