/** The noise of one channel, one value a bin (frameSize / 2 + 1). Powers are |X|² under the analysis window. */
export interface ChannelNoise {
  readonly meanPower: Float32Array;
  /** Mean and standard deviation of the level of the frames, dB: how a bin of noise flutters. */
  readonly meanLevelDb: Float32Array;
  readonly levelSpreadDb: Float32Array;
}

/** What a passage with noise alone says about the noise. A pure function of the samples. */
export interface NoiseProfile {
  readonly sampleRateHz: number;
  readonly frameSize: number;
  readonly frameCount: number;
  readonly channels: readonly ChannelNoise[];
  /** Where another noise is known: in their order, none over another. Elsewhere it is that of `channels`. */
  readonly places?: readonly NoisePlace[];
}

/** A stretch with a noise of its own, in frames of what is treated. */
export interface NoisePlace {
  readonly startFrame: number;
  readonly endFrame: number;
  readonly channels: readonly ChannelNoise[];
}
