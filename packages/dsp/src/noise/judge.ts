import { Cascade } from '../filters/cascade.js';
import { highPassSection } from '../filters/sections.js';
import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { powerToDb } from '../units.js';
import { flatSamples, levelsOf, loudestMoment, meanSquare } from './moments.js';
import { MIN_NOISE_SECONDS } from './profile.js';

/** What a passage is good for as a noise passage; everything but the first two speaks against it. */
export type NoiseVerdict =
  'clean' | 'short' | 'too-short' | 'silent' | 'clipped' | 'click' | 'speech' | 'breath' | 'sound' | 'drifts' | 'loud';

export interface NoiseJudgement {
  readonly verdict: NoiseVerdict;
  readonly seconds: number;
  /** RMS of the passage, the loudest channel. */
  readonly levelDbfs: number;
  /** How far the loudest moment rises above the quiet quarter. */
  readonly riseDb: number;
  /** Level of the last third against the first. */
  readonly driftDb: number;
  /** The verdict in words, with its figures. */
  readonly sentence: string;
}

const STEP_SECONDS = 0.04;
/** Steady noise stays within about 3 dB in 40 ms steps; a word, breath or knock rises further. Common practice, no source. */
const MOST_RISE_DB = 6;
/** The level that counts as that of the noise: of the quietest quarter, so that words may fill the rest. */
const QUIET_SHARE = 0.25;
/** Under a second the low bins are averaged over few frames. Common practice, no source. */
const GOOD_SECONDS = 1;
const MOST_DRIFT_DB = 2;
/** A click: two milliseconds above 2 kHz that rise so far, where a voice or breath swells over longer. */
const CLICK_SECONDS = 0.002;
const CLICK_RISE_DB = 12;
/** A held sound is as steady as noise, but louder than what lies under the words. */
const MOST_OVER_FLOOR_DB = 10;
const MOST_FLAT_SAMPLES = 3;

/**
 * Judges a passage before it is profiled: long enough, nothing in it that comes and goes, as quiet as the recording is
 * between the words. Levels are taken in 40 ms steps above 150 Hz, where a voice shows and rumble does not.
 * @param floorDbfs level of the recording where it is quiet, where that is known.
 */
export function judgeNoisePassage(
  kernels: KernelModule,
  passage: PlanarBlock,
  sampleRateHz: number,
  floorDbfs: number | null = null,
): NoiseJudgement {
  const seconds = (passage[0]?.length ?? 0) / sampleRateHz;
  const levelDbfs = Math.max(...passage.map((samples) => powerToDb(meanSquare(samples, 0, samples.length))));
  const heard = passage.map((samples) => listen(kernels, samples, sampleRateHz)).sort((a, b) => b.riseDb - a.riseDb);
  const { riseDb, moment } = heard[0] ?? { riseDb: 0, moment: null };
  const driftDb = heard.reduce((most, each) => (Math.abs(each.driftDb) > Math.abs(most) ? each.driftDb : most), 0);
  const clickDb = Math.max(0, ...heard.map((each) => each.clickDb));
  const flat = Math.max(0, ...passage.map(flatSamples));
  const length = `${seconds.toFixed(2)} s`;
  const level = `${levelDbfs.toFixed(1)} dBFS`;
  const say = (verdict: NoiseVerdict, sentence: string): NoiseJudgement => ({ verdict, sentence, seconds, levelDbfs, riseDb, driftDb });
  if (seconds < MIN_NOISE_SECONDS)
    return say('too-short', `Too short: ${length}. It takes ${MIN_NOISE_SECONDS} s or more; one or two seconds are better.`);
  if (!Number.isFinite(levelDbfs)) return say('silent', `Digital silence: there is no noise in these ${length} to learn from.`);
  if (flat > MOST_FLAT_SAMPLES)
    return say(
      'clipped',
      `It is clipped: ${flat} samples in a row stand at one level. Repair the clipping first, or take another passage.`,
    );
  if (clickDb > CLICK_RISE_DB && (riseDb <= MOST_RISE_DB || moment!.seconds < 0.06))
    return say('click', `A click is in it: ${clickDb.toFixed(0)} dB above the rest for an instant. Leave it out, or mend it first.`);
  if (riseDb > MOST_RISE_DB) {
    const { voiced, seconds: long } = moment!;
    const what = voiced ? 'Speech' : long >= 0.12 && long <= 1.2 ? 'A breath or a soft sound' : 'Another sound';
    return say(
      voiced ? 'speech' : long >= 0.12 && long <= 1.2 ? 'breath' : 'sound',
      `${what} is in it: for ${long.toFixed(2)} s the level rises, by ${riseDb.toFixed(1)} dB at most; steady noise stays within ${MOST_RISE_DB} dB.`,
    );
  }
  if (Math.abs(driftDb) > MOST_DRIFT_DB)
    return say(
      'drifts',
      `The level drifts: ${driftDb > 0 ? '+' : ''}${driftDb.toFixed(1)} dB from its first third to its last. Take a shorter one, or let the profile follow.`,
    );
  if (floorDbfs !== null && levelDbfs > floorDbfs + MOST_OVER_FLOOR_DB)
    return say(
      'loud',
      `Steady, but ${(levelDbfs - floorDbfs).toFixed(1)} dB above the floor of the recording: a held sound, or a noise that is not always there.`,
    );
  if (seconds < GOOD_SECONDS) return say('short', `Usable but short: ${length} at ${level}. A second or more is better.`);
  return say('clean', `Clean: ${length} of steady noise at ${level}.`);
}

/** What one channel of a passage holds besides noise. */
function listen(kernels: KernelModule, samples: Float32Array, sampleRateHz: number) {
  const above = (hz: number): Float32Array => {
    const filtered = Float32Array.from(samples);
    new Cascade(
      kernels,
      [0.54, 1.31].map((q) => highPassSection(Math.min(hz, sampleRateHz / 4), q, sampleRateHz)),
    ).process(filtered, 0, filtered.length);
    return filtered;
  };
  const body = above(150);
  const levels = levelsOf(body, STEP_SECONDS, sampleRateHz);
  const none = { riseDb: 0, driftDb: 0, clickDb: 0, moment: null };
  if (levels.length < 3) return none;
  const sorted = Float64Array.from(levels).sort();
  const quietDb = sorted[Math.floor(sorted.length * QUIET_SHARE)]!;
  const fine = Float64Array.from(levelsOf(above(2000), CLICK_SECONDS, sampleRateHz)).sort();
  const mean = (part: readonly number[]): number => powerToDb(part.reduce((sum, db) => sum + 10 ** (db / 10), 0) / part.length);
  const third = Math.ceil(levels.length / 3);
  return {
    riseDb: Math.max(0, sorted[sorted.length - 1]! - quietDb),
    driftDb: levels.length < 9 ? 0 : mean(levels.slice(-third)) - mean(levels.slice(0, third)),
    clickDb: Math.max(0, fine[fine.length - 1]! - fine[Math.floor(fine.length / 2)]!),
    moment: loudestMoment(body, levels, quietDb, STEP_SECONDS, sampleRateHz),
  };
}
