import { gainToDb, powerToDb } from '@euphonos/dsp';

/** What a treatment of levels does to words: by how much, how often, and what of their punch it costs. */
export interface Dynamics {
  /** Furthest down and up, dB (0 where it never goes there), against what is added everywhere. */
  readonly mostDownDb: number;
  readonly mostUpDb: number;
  /** In the middle of all words that it moves, dB; 0 when it moves none. */
  readonly typicalDb: number;
  /** Share of the words that it moves by half a decibel or more, 0 … 1. */
  readonly share: number;
  /** Peaks over the mean level of the words, dB, as they come in and as they go out. */
  readonly crestBeforeDb: number;
  readonly crestAfterDb: number;
}

/** Powers and peaks of steps as they come in and go out. */
export interface StepLevels {
  readonly before: readonly number[];
  readonly after: readonly number[];
  readonly peaksBefore: readonly number[];
  readonly peaksAfter: readonly number[];
}

/** What is moved by less is as it was. Common practice, no source. */
const MOVED_DB = 0.5;

/** @param words the steps that are words. @param addedDb what the treatment adds everywhere (make-up). */
export function dynamicsOf({ before, after, peaksBefore, peaksAfter }: StepLevels, words: ReadonlySet<number>, addedDb: number): Dynamics {
  const steps = [...words].filter((step) => (before[step] ?? 0) > 0 && (after[step] ?? 0) > 0);
  const changes = steps.map((step) => powerToDb(after[step]! / before[step]!) - addedDb);
  const moved = changes.filter((db) => Math.abs(db) >= MOVED_DB).sort((a, b) => a - b);
  const crest = (powers: readonly number[], peaks: readonly number[]): number => {
    const mean = steps.reduce((sum, step) => sum + powers[step]!, 0) / Math.max(1, steps.length);
    return steps.length === 0 ? 0 : gainToDb(Math.max(...steps.map((step) => peaks[step]!))) - powerToDb(mean + 1e-20);
  };
  return {
    mostDownDb: Math.min(0, ...changes),
    mostUpDb: Math.max(0, ...changes),
    typicalDb: moved[moved.length >> 1] ?? 0,
    share: changes.length === 0 ? 0 : moved.length / changes.length,
    crestBeforeDb: crest(before, peaksBefore),
    crestAfterDb: crest(after, peaksAfter),
  };
}
