import type { SoundFigures } from '@euphonos/dsp';

/** What is measured of a file that a podcast would take; with other figures where told. */
export const figures = (part: Partial<SoundFigures> = {}): SoundFigures => ({
  integratedLufs: -16,
  loudnessRangeLu: 5,
  maxMomentaryLufs: -10,
  maxShortTermLufs: -12,
  truePeakDbtp: -1.4,
  samplePeakDbfs: -1.6,
  rmsDbfs: -19,
  noiseFloorDbfs: -64,
  dcOffset: 0,
  durationSeconds: 10,
  sampleRateHz: 48000,
  channels: 1,
  ...part,
});
