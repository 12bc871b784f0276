import type { PlanarBlock } from '../../processor.js';
import type { SpanSeconds } from '../../span-seconds.js';
import { powerToDb } from '../../units.js';

/** Level over time: mean square over steps of equal length, channels together. */
export interface LevelTrack {
  readonly stepSeconds: number;
  readonly meanSquares: Float32Array;
}

/** What tells a pause: nobody talks (the speech activity of a survey), the level is low, or both. */
export type PauseRule = 'both' | 'voice' | 'level';

export interface PauseRules {
  readonly decides: PauseRule;
  readonly openDbfs: number;
  readonly closeDbfs: number;
  readonly shortestWordMs: number;
}

/** Levels are evened out over this long: single steps of noise jump by several decibels. */
const EVEN_SECONDS = 0.02;
/** Less than this is no pause whatever is asked for. */
const LEAST_SECONDS = 0.05;
export const MOST_PAUSES = 4000;

const STEP_FRAMES = 256;

/** Makes a level track of a stream; any block length. */
export class LevelTracker {
  readonly #meanSquares: number[] = [];
  #power = 0;
  #frames = 0;

  constructor(private readonly sampleRateHz: number) {}

  process(channels: PlanarBlock, frames: number): void {
    for (let n = 0; n < frames; n++) {
      for (let c = 0; c < channels.length; c++) this.#power += channels[c]![n]! ** 2 / channels.length;
      if (++this.#frames < STEP_FRAMES) continue;
      this.#meanSquares.push(this.#power / STEP_FRAMES);
      this.#power = this.#frames = 0;
    }
  }

  finish(): LevelTrack {
    return { stepSeconds: STEP_FRAMES / this.sampleRateHz, meanSquares: Float32Array.from(this.#meanSquares) };
  }
}

/** The levels, dBFS, each evened out over the steps around it. */
export function evenLevels({ stepSeconds, meanSquares }: LevelTrack): Float32Array {
  const reach = Math.max(0, Math.round(EVEN_SECONDS / stepSeconds / 2));
  const levels = new Float32Array(meanSquares.length);
  let sum = 0;
  for (let i = -reach; i < meanSquares.length; i++) {
    sum += meanSquares[i + reach] ?? 0;
    sum -= meanSquares[i - reach - 1] ?? 0;
    if (i >= 0)
      levels[i] = powerToDb(Math.max(0, sum) / (Math.min(meanSquares.length - 1, i + reach) - Math.max(0, i - reach) + 1) + 1e-20);
  }
  return levels;
}

/**
 * Where nobody is heard. The level opens above `openDbfs` and closes below `closeDbfs`; what is open for less than the
 * shortest word is none. With `both`, a pause is where the level is closed and nobody talks: a soft end of a word, which
 * the level alone would take for a pause, is kept.
 * @param levels as `evenLevels` gives them. @param quiet where a survey hears nobody talk, in order.
 */
export function findPauses(
  levels: Float32Array,
  stepSeconds: number,
  quiet: readonly SpanSeconds[],
  { decides, openDbfs, closeDbfs, shortestWordMs }: PauseRules,
): SpanSeconds[] {
  if (decides === 'voice') return quiet.filter(longEnough).slice(0, MOST_PAUSES);
  const closed = closedSpans(levels, stepSeconds, openDbfs, closeDbfs, shortestWordMs / 1000);
  return (decides === 'level' ? closed : common(closed, quiet)).filter(longEnough).slice(0, MOST_PAUSES);
}

const longEnough = ({ startSeconds, endSeconds }: SpanSeconds): boolean => endSeconds - startSeconds >= LEAST_SECONDS;
const ms = (seconds: number): number => Math.round(seconds * 1000) / 1000;

function closedSpans(
  levels: Float32Array,
  stepSeconds: number,
  openDbfs: number,
  closeDbfs: number,
  shortestWordSeconds: number,
): SpanSeconds[] {
  const spans: { startSeconds: number; endSeconds: number }[] = [];
  let open = (levels[0] ?? -Infinity) > openDbfs;
  let since = 0;
  const end = (i: number): void => {
    const span = { startSeconds: ms(since * stepSeconds), endSeconds: ms(i * stepSeconds) };
    const last = spans[spans.length - 1];
    if (open) return;
    // What was open in between was shorter than any word.
    if (last && span.startSeconds - last.endSeconds < shortestWordSeconds) last.endSeconds = span.endSeconds;
    else spans.push(span);
  };
  for (let i = 0; i < levels.length; i++) {
    const now = open ? levels[i]! >= closeDbfs : levels[i]! > openDbfs;
    if (now === open) continue;
    end(i);
    open = now;
    since = i;
  }
  end(levels.length);
  return spans;
}

/** What two lists of spans, each in order, have in common. */
function common(a: readonly SpanSeconds[], b: readonly SpanSeconds[]): SpanSeconds[] {
  const spans: SpanSeconds[] = [];
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    const startSeconds = Math.max(a[i]!.startSeconds, b[j]!.startSeconds);
    const endSeconds = Math.min(a[i]!.endSeconds, b[j]!.endSeconds);
    if (startSeconds < endSeconds) spans.push({ startSeconds, endSeconds });
    if (a[i]!.endSeconds < b[j]!.endSeconds) i++;
    else j++;
  }
  return spans;
}

/** So much of a gap lies under where pauses close, which is just above their mean; and so far above that they open (common practice: 4 to 5 dB). */
const FLOOR_SHARE = 0.9;
const OPEN_ABOVE_DB = 5;
/** Clear of the words on either side. */
const CLEAR_SECONDS = 0.1;
const TALK_BELOW_DB = 12;

/** Thresholds from the levels where nobody talks, well below the level of the talk; null where there is no gap to measure. */
export function suggestPauseThresholds(
  levels: Float32Array,
  stepSeconds: number,
  quiet: readonly SpanSeconds[],
): { readonly openDbfs: number; readonly closeDbfs: number } | null {
  const inGaps: number[] = [];
  const inTalk: number[] = [];
  let span = 0;
  for (let i = 0; i < levels.length; i++) {
    const at = i * stepSeconds;
    while (span < quiet.length && quiet[span]!.endSeconds <= at) span++;
    const gap = quiet[span];
    if (gap && at >= gap.startSeconds + CLEAR_SECONDS && at < gap.endSeconds - CLEAR_SECONDS) inGaps.push(levels[i]!);
    else if (!gap || at < gap.startSeconds) inTalk.push(levels[i]!);
  }
  if (inGaps.length < 10) return null;
  const at = (list: number[], share: number): number => list.sort((a, b) => a - b)[Math.floor(share * (list.length - 1))]!;
  const talk = inTalk.length > 0 ? at(inTalk, 0.7) : 0;
  // The next half decibel above: a floor that stands still, as after a gate, would otherwise never lie under it.
  const closeDbfs = Math.floor(Math.min(at(inGaps, FLOOR_SHARE), talk - TALK_BELOW_DB) * 2) / 2 + 0.5;
  return { closeDbfs: Math.max(-100, closeDbfs), openDbfs: Math.max(-100, closeDbfs) + OPEN_ABOVE_DB };
}
