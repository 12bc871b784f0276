import { DspError } from '../errors.js';
import type { KernelModule } from '../kernels/instance.js';
import { RealFft } from '../kernels/real-fft.js';
import type { PlanarBlock } from '../processor.js';
import type { ChannelNoise, NoiseProfile } from './noise-profile.js';
import { analysisWindow, frameSizeFor, HOPS_PER_FRAME } from '../spectrum/window.js';

/** Shortest passage that can be profiled: less says too little about the low bins. Common practice, no source. */
export const MIN_NOISE_SECONDS = 0.3;

/**
 * Takes the noise profile of a passage: per bin the mean power, and mean and standard deviation of the level.
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
  const [power, level, level2] = [0, 1, 2].map(() => new Float64Array(bins)) as [Float64Array, Float64Array, Float64Array];
  let count = 0;
  for (let from = 0; from + fft.size <= samples.length; from += fft.size / HOPS_PER_FRAME) {
    for (let n = 0; n < fft.size; n++) fft.frame[n] = samples[from + n]! * window[n]!;
    fft.forward();
    count++;
    for (let k = 0; k < bins; k++) {
      const p = fft.re[k]! ** 2 + fft.im[k]! ** 2;
      const db = 10 * Math.log10(p + 1e-20);
      power[k]! += p;
      level[k]! += db;
      level2[k]! += db * db;
    }
  }
  const mean = (sum: Float64Array): Float32Array => Float32Array.from(sum, (value) => value / count);
  return {
    meanPower: mean(power),
    meanLevelDb: mean(level),
    levelSpreadDb: Float32Array.from(level, (sum, k) => Math.sqrt(Math.max(0, level2[k]! / count - (sum / count) ** 2))),
  };
}

/**
 * One profile of several passages of the same noise: each counts by its frames, as if they had been one passage.
 * @param profiles at least one, all of one sample rate and of as many channels.
 */
export function joinProfiles(profiles: readonly NoiseProfile[]): NoiseProfile {
  const [first] = profiles as [NoiseProfile];
  if (profiles.length === 1) return first;
  const frameCount = profiles.reduce((sum, profile) => sum + profile.frameCount, 0);
  const channels = first.channels.map((_, c): ChannelNoise => {
    const mean = (of: (noise: ChannelNoise, k: number) => number): Float32Array =>
      Float32Array.from(
        first.channels[c]!.meanPower,
        (_, k) => profiles.reduce((sum, profile) => sum + profile.frameCount * of(profile.channels[c]!, k), 0) / frameCount,
      );
    const meanLevelDb = mean((noise, k) => noise.meanLevelDb[k]!);
    const variance = mean((noise, k) => noise.levelSpreadDb[k]! ** 2 + (noise.meanLevelDb[k]! - meanLevelDb[k]!) ** 2);
    return { meanPower: mean((noise, k) => noise.meanPower[k]!), meanLevelDb, levelSpreadDb: variance.map(Math.sqrt) };
  });
  return { ...first, frameCount, channels };
}
