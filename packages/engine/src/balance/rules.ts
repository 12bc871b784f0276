import { COURSE_STEP_SECONDS, SHORT_TERM_SECONDS, type LoudnessCourse } from '@euphonos/dsp';
import type { DeliveryTarget } from '../delivery/targets.js';

/** True peaks over time are told by steps of this. */
export const PEAK_STEP_SECONDS = 0.5;

/** Short-term loudness may be so far over the target. EBU R 128 s1 for short programmes (from memory); elsewhere a fair warning. */
export const LOUD_OVER_TARGET_LU = 5;

/** A place where a rule of the target is broken: by how much at the most, from when to when. */
export interface RulePlace {
  readonly rule: 'peak' | 'loud';
  readonly atSeconds: number;
  readonly seconds: number;
  /** The worst of it, dBTP or LUFS, and what it may be. */
  readonly value: number;
  readonly limit: number;
}

/**
 * Where a programme breaks what its target asks, in order of time.
 * @param peaksDbtp highest true peak of each step of `PEAK_STEP_SECONDS`
 */
export function rulePlaces(
  { shortTermLufs }: Pick<LoudnessCourse, 'shortTermLufs'>,
  peaksDbtp: ArrayLike<number>,
  { integratedLufs, ceilingDbtp }: Pick<DeliveryTarget, 'integratedLufs' | 'ceilingDbtp'>,
): RulePlace[] {
  const peaks = runsOver(peaksDbtp, ceilingDbtp).map(({ from, to, value }): RulePlace => ({
    rule: 'peak',
    atSeconds: from * PEAK_STEP_SECONDS,
    seconds: (to - from) * PEAK_STEP_SECONDS,
    value,
    limit: ceilingDbtp,
  }));
  const limit = integratedLufs === null ? Infinity : integratedLufs + LOUD_OVER_TARGET_LU;
  // Told where the windows begin that are too loud: the sound that makes them so follows.
  const loud = runsOver(shortTermLufs, limit).map(({ from, to, value }): RulePlace => ({
    rule: 'loud',
    atSeconds: from * COURSE_STEP_SECONDS,
    seconds: (to - from) * COURSE_STEP_SECONDS + SHORT_TERM_SECONDS,
    value,
    limit,
  }));
  return [...peaks, ...loud].sort((a, b) => a.atSeconds - b.atSeconds);
}

/** Runs of values over a limit, [from, to), each with its highest. */
function runsOver(values: ArrayLike<number>, limit: number): { readonly from: number; readonly to: number; readonly value: number }[] {
  const runs: { from: number; to: number; value: number }[] = [];
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    if (value <= limit) continue;
    const last = runs[runs.length - 1];
    if (last?.to === i) {
      last.to = i + 1;
      last.value = Math.max(last.value, value);
    } else runs.push({ from: i, to: i + 1, value });
  }
  return runs;
}
