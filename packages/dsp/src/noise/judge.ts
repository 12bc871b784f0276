import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { highPassSection } from '../filters/sections.js';
import { Cascade } from '../filters/cascade.js';
import { powerToDb } from '../units.js';
import { MIN_NOISE_SECONDS } from './profile.js';

/** What a passage is good for as a noise passage. */
export interface NoiseJudgement {
  readonly verdict: 'clean' | 'short' | 'too-short' | 'speech' | 'silent';
  readonly seconds: number;
  /** RMS of the passage, the loudest channel. */
  readonly levelDbfs: number;
  /** How far the loudest moment rises above the quiet quarter. */
  readonly riseDb: number;
  /** The verdict in words, with its figures. */
  readonly sentence: string;
}

const STEP_SECONDS = 0.04;
/** Steady noise stays within about 3 dB in 40 ms steps; a word, breath or knock rises further. Common practice, no source. */
const SPEECH_RISE_DB = 6;
/** The level that counts as that of the noise: of the quietest quarter, so that words may fill the rest. */
const QUIET_SHARE = 0.25;
/** Under a second the low bins are averaged over few frames. Common practice, no source. */
const GOOD_SECONDS = 1;

/**
 * Judges a passage before it is profiled: long enough, and nothing in it that comes and goes. Levels are
 * taken in 40 ms steps above 150 Hz, where a voice shows and rumble does not; a step that rises 6 dB above the
 * quiet quarter speaks for speech (or another sound) in it.
 */
export function judgeNoisePassage(kernels: KernelModule, passage: PlanarBlock, sampleRateHz: number): NoiseJudgement {
  const seconds = (passage[0]?.length ?? 0) / sampleRateHz;
  const levelDbfs = Math.max(...passage.map((samples) => powerToDb(meanSquare(samples, 0, samples.length))));
  const riseDb = Math.max(0, ...passage.map((samples) => riseAboveQuiet(kernels, samples, sampleRateHz)));
  const facts = { seconds, levelDbfs, riseDb };
  const length = `${seconds.toFixed(2)} s`;
  if (seconds < MIN_NOISE_SECONDS)
    return { ...facts, verdict: 'too-short', sentence: `Too short: ${length}. It takes ${MIN_NOISE_SECONDS} s or more; one or two seconds are better.` };
  if (!Number.isFinite(levelDbfs))
    return { ...facts, verdict: 'silent', sentence: `Digital silence: there is no noise in these ${length} to learn from.` };
  if (riseDb > SPEECH_RISE_DB)
    return {
      ...facts,
      verdict: 'speech',
      sentence: `Speech or another sound is in it: the level rises ${riseDb.toFixed(1)} dB above the quiet moments; steady noise stays within ${SPEECH_RISE_DB} dB.`,
    };
  const level = `${levelDbfs.toFixed(1)} dBFS`;
  if (seconds < GOOD_SECONDS)
    return { ...facts, verdict: 'short', sentence: `Usable but short: ${length} at ${level}. A second or more is better.` };
  return { ...facts, verdict: 'clean', sentence: `Clean: ${length} of steady noise at ${level}.` };
}

function meanSquare(samples: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n]! ** 2;
  return to > from ? sum / (to - from) : 0;
}

function riseAboveQuiet(kernels: KernelModule, samples: Float32Array, sampleRateHz: number): number {
  const above = Float32Array.from(samples);
  const step = Math.round(STEP_SECONDS * sampleRateHz);
  new Cascade(kernels, [0.54, 1.31].map((q) => highPassSection(150, q, sampleRateHz))).process(above, 0, above.length);
  const levels: number[] = [];
  // The first two steps hold the filter's own start.
  for (let from = 2 * step; from + step <= above.length; from += step / 2)
    levels.push(powerToDb(meanSquare(above, Math.floor(from), Math.floor(from) + step) + 1e-20));
  if (levels.length < 3) return 0;
  levels.sort((a, b) => a - b);
  return levels[levels.length - 1]! - levels[Math.floor(levels.length * QUIET_SHARE)]!;
}
