import { gainToDb, powerToDb, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { chainRun, comparedRun } from './chain-run.js';

/** What a treatment does to the level over time. */
export interface GainTrace {
  readonly startFrame: number;
  readonly stepFrames: number;
  /** A gain a step, dB; NaN where nothing sounds that could tell it. */
  readonly db: Float32Array;
}

const STEP_SECONDS = 0.02;
/** Softer steps than this tell no gain. */
const SILENT_POWER = 1e-12;

/** Gains of steps from their powers before and after. */
export const gainsOf = (before: readonly number[], after: readonly number[]): Float32Array =>
  Float32Array.from(before, (power, i) => (power > SILENT_POWER && after[i]! > 0 ? powerToDb(after[i]! / power) : NaN));

/**
 * Follows one treatment of a chain over a stream: push all of it from the first frame on, then finish. The treatments before it run too.
 * @returns null when the chain has no such treatment in use
 */
export function traceGain(context: ProcessorContext, { treatments }: ChainSpec, treatmentId: string) {
  const at = treatments.findIndex(({ id, bypassed }) => id === treatmentId && !bypassed);
  if (at < 0) return null;
  const stepFrames = Math.round(STEP_SECONDS * context.sampleRateHz);
  const sums: [number[], number[]] = [[], []];
  let power = [0, 0];
  let fill = 0;
  const run = comparedRun(context, { treatments: [treatments[at]!] }, (after, before, frames) => {
    for (let n = 0; n < frames; n++) {
      for (const [i, block] of [before, after].entries()) for (const samples of block) power[i]! += samples[n]! ** 2;
      if (++fill < stepFrames) continue;
      sums.forEach((list, i) => list.push(power[i]! / stepFrames));
      power = [0, 0];
      fill = 0;
    }
  });
  const before = chainRun(context, { treatments: treatments.slice(0, at) }, (block, _, frames) => run.push(block, frames));
  return {
    push: (block: PlanarBlock, frames: number): void => before.push(block, frames),
    finish: (): GainTrace => {
      before.finish();
      run.finish();
      return { startFrame: context.startFrame ?? 0, stepFrames, db: gainsOf(...sums) };
    },
  };
}

/** A point of a gain line at a frame of the session. */
export interface TracePoint {
  readonly frame: number;
  readonly gainDb: number;
}

/** As few points as follow a trace to within a tolerance (Ramer 1972, Douglas & Peucker 1973; distances in dB); silence bridges itself. */
export function pointsOf({ startFrame, stepFrames, db }: GainTrace, toleranceDb: number): TracePoint[] {
  const points: TracePoint[] = [];
  db.forEach((gainDb, i) => {
    if (!Number.isNaN(gainDb))
      points.push({ frame: Math.round(startFrame + (i + 0.5) * stepFrames), gainDb: Math.max(gainDb, gainToDb(1e-4)) });
  });
  if (points.length < 3) return points;
  const kept = new Uint8Array(points.length);
  kept[0] = kept[points.length - 1] = 1;
  const spans: [number, number][] = [[0, points.length - 1]];
  for (let span = spans.pop(); span; span = spans.pop()) {
    const [from, to] = span;
    const [a, b] = [points[from]!, points[to]!];
    let farthest = 0;
    let most = toleranceDb;
    for (let i = from + 1; i < to; i++) {
      const { frame, gainDb } = points[i]!;
      const away = Math.abs(gainDb - (a.gainDb + ((b.gainDb - a.gainDb) * (frame - a.frame)) / (b.frame - a.frame)));
      if (away > most) [farthest, most] = [i, away];
    }
    if (farthest === 0) continue;
    kept[farthest] = 1;
    spans.push([from, farthest], [farthest, to]);
  }
  return points.filter((_, i) => kept[i] === 1);
}
