import { needsProfile, powerToDb, type ChainSpec, type PlanarBlock, type ProcessorContext, type TreatmentEvent } from '@euphonos/dsp';
import { comparedRun } from './chain-run.js';
import { gainsOf, type GainTrace } from './gain-trace.js';
import { dynamicsOf, type Dynamics, type StepLevels } from './dynamics.js';

/** What one treatment of a chain changes in a passage. */
export interface TreatmentEffect {
  readonly id: string;
  /** Change of the level of the quiet steps and of the loud ones, dB; null where there is nothing to compare. */
  readonly gapsDb: number | null;
  readonly wordsDb: number | null;
  /** RMS level of the quiet steps and of the loud ones as they come in, dBFS. */
  readonly gapsDbfs: number | null;
  readonly wordsDbfs: number | null;
  /** What the loud steps lose of their power, against it: the speech loss, dB (-40 is next to nothing). */
  readonly speechLossDb: number | null;
  /** Of what closes in the gaps: where something that stands out of them is lowered all the same. */
  readonly touched: readonly TouchedWord[];
  /** Of what moves levels: by how much, how often, and what of the punch it costs; null of everything else. */
  readonly dynamics: Dynamics | null;
  /** The same over time; null of everything else. */
  readonly gain: GainTrace | null;
  /** What it mended, one by one, for treatments that do. */
  readonly events: readonly TreatmentEvent[];
}

/** A stretch that stands out of the gaps as a word does and is lowered: a beginning or an end that is lost. */
export interface TouchedWord {
  readonly startFrame: number;
  readonly endFrame: number;
  /** How far it is lowered at most, dB. */
  readonly loweredDb: number;
}

/** What moves levels of words. */
const MOVES: ReadonlySet<string> = new Set(['levelling', 'compressor', 'limiter']);
/** What is a gain over time and nothing else, as a line can be drawn of it. */
const GAINS: ReadonlySet<string> = new Set([...MOVES, 'under-speech', 'bleed', 'gate', 'expander']);
/** What closes in the gaps, and may close on a word. */
const CLOSES: ReadonlySet<string> = new Set(['gate', 'expander']);
/** A word stands so far above the gaps, and is touched when it is lowered by so much. Common practice, no source. */
const WORD_ABOVE_DB = 12;
const TOUCHED_DB = 3;
const MOST_TOUCHED = 200;

const STEP_SECONDS = 0.05;
/** The quietest steps count as gaps, the loud ones as words. Common practice, no source. */
const GAP_SHARE = 0.15;
const WORDS_BELOW_TOP_DB = 18;
const MOST_EVENTS = 2000;
/** Routes: what differs is not what is lost. */
const ROUTES: ReadonlySet<string> = new Set(['channels']);

/** Powers and peaks in steps of what goes into a stage, what comes out, and their difference. */
class StageMeter implements StepLevels {
  readonly before: number[] = [];
  readonly after: number[] = [];
  readonly removed: number[] = [];
  readonly peaksBefore: number[] = [];
  readonly peaksAfter: number[] = [];
  #sums = [0, 0, 0];
  #peaks = [0, 0];
  #fill = 0;

  constructor(
    private readonly stepFrames: number,
    private skip: number,
  ) {}

  take(after: PlanarBlock, before: PlanarBlock, frames: number): void {
    const start = Math.min(this.skip, frames);
    this.skip -= start;
    for (let n = start; n < frames; n++) {
      for (let c = 0; c < before.length; c++) {
        const x = before[c]![n]!;
        const y = after[c]![n]!;
        this.#sums[0]! += x * x;
        this.#sums[1]! += y * y;
        this.#sums[2]! += (x - y) * (x - y);
        this.#peaks[0] = Math.max(this.#peaks[0]!, Math.abs(x));
        this.#peaks[1] = Math.max(this.#peaks[1]!, Math.abs(y));
      }
      if (++this.#fill < this.stepFrames) continue;
      [this.before, this.after, this.removed].forEach((list, i) => list.push(this.#sums[i]! / this.stepFrames));
      [this.peaksBefore, this.peaksAfter].forEach((list, i) => list.push(this.#peaks[i]!));
      this.#sums = [0, 0, 0];
      this.#peaks = [0, 0];
      this.#fill = 0;
    }
  }
}

/**
 * Runs a passage through a chain stage by stage and tells what each does. `input` starts `leadFrames` before the
 * passage, for the stages to settle. `context.startFrame` is the frame of the recording that input[0] is.
 */
export function measureEffects(context: ProcessorContext, spec: ChainSpec, input: PlanarBlock, leadFrames: number): TreatmentEffect[] {
  const frames = input[0]?.length ?? 0;
  const stepFrames = Math.round(STEP_SECONDS * context.sampleRateHz);
  let sound = input;
  const quiet = new Set<number>();
  const loud = new Set<number>();
  return spec.treatments.flatMap((settings): TreatmentEffect[] => {
    if (settings.bypassed || (!context.noiseProfile && needsProfile(settings))) return [];
    const events: TreatmentEvent[] = [];
    const firstFrame = (context.startFrame ?? 0) + leadFrames;
    const onEvent = (event: TreatmentEvent): void => {
      // The same thing on both sides is one thing.
      const known =
        event.channel > 0 &&
        events.some((other) => other.channel !== event.channel && other.startFrame < event.endFrame && event.startFrame < other.endFrame);
      if (event.startFrame >= firstFrame && events.length < MOST_EVENTS && !known) events.push(event);
    };
    const out = input.map(() => new Float32Array(frames));
    const meter = new StageMeter(stepFrames, leadFrames);
    let at = 0;
    const run = comparedRun({ ...context, onEvent }, { treatments: [settings] }, (after, before, count) => {
      after.forEach((samples, c) => out[c]!.set(samples.subarray(0, count), at));
      meter.take(after, before, count);
      at += count;
    });
    run.push(sound, frames);
    run.finish();
    if (quiet.size === 0 && loud.size === 0) sortSteps(meter.before, quiet, loud);
    sound = out;
    const mean = (list: readonly number[], steps: Set<number>): number => {
      let sum = 0;
      for (const step of steps) sum += list[step] ?? 0;
      return sum;
    };
    const change = (steps: Set<number>): number | null => {
      const [before, after] = [mean(meter.before, steps), mean(meter.after, steps)];
      return before > 1e-16 ? Math.max(-120, powerToDb((after + 1e-20) / before)) : null;
    };
    const levelOf = (steps: Set<number>): number | null =>
      steps.size === 0 ? null : powerToDb(mean(meter.before, steps) / (steps.size * input.length) + 1e-20);
    const quietPower = quiet.size > 0 ? mean(meter.before, quiet) / quiet.size : 0;
    const touched = CLOSES.has(settings.kind) && quietPower > 0 ? touchedWords(meter, quietPower, firstFrame, stepFrames) : [];
    const words = mean(meter.before, loud);
    const lost = ROUTES.has(settings.kind) ? Math.max(0, words - mean(meter.after, loud)) : mean(meter.removed, loud);
    const speechLossDb = words > 1e-16 ? Math.max(-120, powerToDb((lost + 1e-20) / words)) : null;
    return [
      {
        id: settings.id ?? settings.kind,
        gapsDb: change(quiet),
        wordsDb: change(loud),
        gapsDbfs: levelOf(quiet),
        wordsDbfs: levelOf(loud),
        speechLossDb,
        touched,
        dynamics: MOVES.has(settings.kind)
          ? dynamicsOf(meter, loud, settings.kind === 'compressor' ? (settings['makeUpDb'] as number) : 0)
          : null,
        gain: GAINS.has(settings.kind) ? { startFrame: firstFrame, stepFrames, db: gainsOf(meter.before, meter.after) } : null,
        events,
      },
    ];
  });
}

/** Which steps of the source are gaps and which are words. */
function sortSteps(powers: readonly number[], quiet: Set<number>, loud: Set<number>): void {
  const sorted = powers.filter((power) => power > 1e-14).sort((a, b) => a - b);
  const limit = sorted[Math.floor(GAP_SHARE * sorted.length)] ?? 0;
  const top = (sorted[Math.floor(0.98 * sorted.length)] ?? 0) * 10 ** (-WORDS_BELOW_TOP_DB / 10);
  powers.forEach((power, step) => {
    if (power > 1e-14 && power <= limit) quiet.add(step);
    if (power >= top && power > 1e-14) loud.add(step);
  });
}

/** Runs of steps that stand out of the gaps and come out lower. */
function touchedWords({ before, after }: StageMeter, quietPower: number, firstFrame: number, stepFrames: number): TouchedWord[] {
  const least = quietPower * 10 ** (WORD_ABOVE_DB / 10);
  const lowered = before.map((power, i) => (power > least ? powerToDb(power / (after[i]! + 1e-20)) : 0));
  const words: TouchedWord[] = [];
  for (let i = 0; i < lowered.length; i++) {
    if (lowered[i]! < TOUCHED_DB) continue;
    const from = i;
    let loweredDb = 0;
    for (; i < lowered.length && lowered[i]! >= TOUCHED_DB; i++) loweredDb = Math.max(loweredDb, lowered[i]!);
    words.push({ startFrame: firstFrame + from * stepFrames, endFrame: firstFrame + i * stepFrames, loweredDb });
  }
  return words.slice(0, MOST_TOUCHED);
}
