import { DspError } from '../errors.js';
import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import type { PlanarBlock } from '../processor.js';
import { analysisWindow, frameSizeFor, HOPS_PER_FRAME } from '../spectrum/window.js';

/** Shortest passage that can be profiled: less says too little about the low bins. Common practice, no source. */
export const MIN_NOISE_SECONDS = 0.3;

/** The noise of one channel, one value a bin (frameSize / 2 + 1). Powers are |X|² under the analysis window. */
export interface ChannelNoise {
  readonly meanPower: Float32Array;
  readonly powerSpread: Float32Array;
  readonly meanLevelDb: Float32Array;
  readonly levelSpreadDb: Float32Array;
}

/** What a passage with noise alone says about the noise. A pure function of the samples. */
export interface NoiseProfile {
  readonly sampleRateHz: number;
  readonly frameSize: number;
  readonly frameCount: number;
  readonly channels: readonly ChannelNoise[];
}

/**
 * Takes the noise profile of a passage: mean and standard deviation per bin, of the power and of the level.
 * @param passage the samples of the passage alone, one array a channel.
 * @throws {DspError} `noise-too-short` below 0.3 s.
 */
export function takeNoiseProfile(kernels: KernelModule, passage: PlanarBlock, sampleRateHz: number): NoiseProfile {
  const seconds = (passage[0]?.length ?? 0) / sampleRateHz;
  if (seconds < MIN_NOISE_SECONDS - 1e-9)
    throw new DspError(
      'noise-too-short',
      `The noise passage is ${seconds.toFixed(2)} s long; it takes ${MIN_NOISE_SECONDS} s or more, one or two seconds are better.`,
      { seconds, minSeconds: MIN_NOISE_SECONDS },
    );
  const frameSize = frameSizeFor(sampleRateHz);
  const fft = new RealFft(kernels, frameSize);
  const channels = passage.map((samples) => channelNoise(fft, samples));
  const hop = frameSize / HOPS_PER_FRAME;
  return { sampleRateHz, frameSize, frameCount: Math.floor((passage[0]!.length - frameSize) / hop) + 1, channels };
}

function channelNoise(fft: RealFft, samples: Float32Array): ChannelNoise {
  const bins = fft.size / 2 + 1;
  const window = analysisWindow(fft.size);
  const sums = Array.from({ length: 4 }, () => new Float64Array(bins));
  const [power, power2, level, level2] = sums as [Float64Array, Float64Array, Float64Array, Float64Array];
  let count = 0;
  for (let from = 0; from + fft.size <= samples.length; from += fft.size / HOPS_PER_FRAME) {
    for (let n = 0; n < fft.size; n++) fft.frame[n] = samples[from + n]! * window[n]!;
    fft.forward();
    count++;
    for (let k = 0; k < bins; k++) {
      const p = fft.re[k]! ** 2 + fft.im[k]! ** 2;
      const db = 10 * Math.log10(p + 1e-20);
      power[k]! += p;
      power2[k]! += p * p;
      level[k]! += db;
      level2[k]! += db * db;
    }
  }
  const mean = (sum: Float64Array): Float32Array => Float32Array.from(sum, (value) => value / count);
  const spread = (sum: Float64Array, squares: Float64Array): Float32Array =>
    Float32Array.from(sum, (value, k) => Math.sqrt(Math.max(0, squares[k]! / count - (value / count) ** 2)));
  return {
    meanPower: mean(power),
    powerSpread: spread(power, power2),
    meanLevelDb: mean(level),
    levelSpreadDb: spread(level, level2),
  };
}
