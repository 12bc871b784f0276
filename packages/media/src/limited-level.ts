import { dbToGain, type GrowingList, StepLoudness, stepFramesOf, TruePeakLimiter, type ProcessorContext } from '@euphonos/dsp';
import { AlignedRun, ceilingOf } from '@euphonos/engine';
import type { RawWriter } from './raw-file.js';
import type { LevelTarget } from './render-passes.js';
import { rmsOf, type WorkLevel } from './work-level.js';

/** Loudness this close to the target is called reached; three times this is left to the last correction. */
const CLOSE_ENOUGH_LU = 0.1;
const MOST_TRIALS = 4;
const FIRST_YIELD_LU = 0.9;
const LEAST_YIELD_LU = 0.2;
/** Gain modulation and 24-bit rounding can lift a peak by a few hundredths of a dB over the limiter's ceiling. */
const CEILING_MARGIN_DB = 0.05;
/** How long the limiter's gain is down before a peak, and on its way back after one. */
const BEFORE_STEPS = 2;
const AFTER_STEPS = 16;

/** What was treated, on disk, and what is known of it. */
export interface Work {
  readonly context: ProcessorContext;
  readonly raw: RawWriter;
  readonly level: WorkLevel;
}

/**
 * The gain that brings treated sound to the target, and the limiter's ceiling, null when no peak would pass
 * it. Limiting costs loudness, so the gain is corrected by trials.
 * @param onBlock is called now and then; may throw to give up
 */
export async function findGain(work: Work, target: LevelTarget, onBlock: () => void) {
  const { level } = work;
  const { integratedLufs, rmsDbfs = null } = target;
  const of = integratedLufs === null ? 'rmsDbfs' : 'integratedLufs';
  const wanted = integratedLufs ?? (rmsDbfs && (rmsDbfs[0] + rmsDbfs[1]) / 2);
  const is = level[of];
  let gainDb = wanted === null || is === null ? 0 : wanted - is;
  const top = ceilingOf(target);
  const ceilingDbtp = top - CEILING_MARGIN_DB;
  if (level.truePeakDbtp === null || level.truePeakDbtp + gainDb <= top) return { gainDb, ceilingDbtp: null };
  // What a decibel of gain adds to the loudness: the more is limited, the less. Learnt from one trial to the next.
  let yieldLu = FIRST_YIELD_LU;
  let last: { gainDb: number; missingLu: number } | undefined;
  for (let trial = 0; wanted !== null && trial < MOST_TRIALS; trial++) {
    const limited = (await levelWhenLimited(work, gainDb, ceilingDbtp, onBlock))[of];
    const missingLu = limited === null ? 0 : wanted - limited;
    if (last && gainDb !== last.gainDb)
      yieldLu = Math.max(LEAST_YIELD_LU, Math.min(1, (last.missingLu - missingLu) / (gainDb - last.gainDb)));
    last = { gainDb, missingLu };
    gainDb += missingLu / yieldLu;
    if (Math.abs(missingLu) <= CLOSE_ENOUGH_LU * 3) break;
  }
  return { gainDb, ceilingDbtp };
}

/**
 * Loudness and RMS level after the gain and the limiter, in LUFS and dBFS: only the blocks in which something reaches the ceiling are limited, and each
 * step's share of energy that is lost there is taken from its K-weighted power. Within 0.03 LU of what the whole measures.
 */
export async function levelWhenLimited(
  { context, raw, level }: Work,
  gainDb: number,
  ceilingDbtp: number,
  onBlock: () => void,
): Promise<Pick<WorkLevel, 'integratedLufs' | 'rmsDbfs'>> {
  const gain = dbToGain(gainDb);
  const stepFrames = stepFramesOf(context.sampleRateHz);
  const { powers, energies, peaks } = level.steps;
  const near = stepsNearPeaks(peaks, dbToGain(ceilingDbtp) / gain);
  const lost = new Float32Array(powers.length + 1);
  // One run over all of them: between two stretches the limiter is at rest. What comes out is late by what it looks ahead.
  const due: { from: number; frames: number }[] = [];
  const run = new AlignedRun(new TruePeakLimiter(context, { gainDb, ceilingDbtp }), context.channels, (out, source, frames) => {
    for (let n = 0; n < frames;) {
      const piece = due[0]!;
      const step = Math.floor(piece.from / stepFrames);
      const count = Math.min(frames - n, piece.frames, (step + 1) * stepFrames - piece.from);
      for (let c = 0; c < context.channels; c++)
        lost[step]! += energy(source[c]!, n, n + count) * gain * gain - energy(out[c]!, n, n + count);
      n += count;
      piece.from += count;
      piece.frames -= count;
      if (piece.frames === 0) due.shift();
    }
  });
  const wanted = (from: number, frames: number): boolean => {
    for (let step = Math.floor(from / stepFrames); step * stepFrames < from + frames; step++) if (near[step]) return true;
    return false;
  };
  for await (const { channels, frames, from } of raw.read(context.channels, wanted)) {
    onBlock();
    due.push({ from, frames });
    run.push(channels, frames);
  }
  run.finish();
  const loudness = new StepLoudness();
  let sum = 0;
  for (let i = 0; i < powers.length; i++) {
    const full = gain * gain * energies.at(i);
    const left = full > 0 ? Math.max(0, 1 - lost[i]! / full) : 1;
    loudness.add(powers.at(i) * gain * gain * left);
    sum += full * left;
  }
  return { integratedLufs: loudness.integratedLufs ?? null, rmsDbfs: rmsOf(sum, powers.length * stepFrames * context.channels) };
}

function energy(samples: Float32Array, from: number, to: number): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n]! * samples[n]!;
  return sum;
}

/** 1 for the steps in which the limiter has something to do, or still has. */
function stepsNearPeaks(peaks: GrowingList, limit: number): Uint8Array {
  const near = new Uint8Array(peaks.length);
  for (let i = 0; i < peaks.length; i++) if (peaks.at(i) > limit) near.fill(1, Math.max(0, i - BEFORE_STEPS), i + 1 + AFTER_STEPS);
  return near;
}
