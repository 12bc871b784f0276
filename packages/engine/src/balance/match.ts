import { CLIP_GAIN_DB } from '../document/clip.js';
import { TRACK_GAIN_DB } from '../document/document.js';
import type { LevelSetting } from '../document/level-edits.js';
import type { BalanceLine } from './levels.js';

/** What lines are matched to. */
export type MatchWish =
  | { readonly kind: 'loudness'; readonly lufs: number }
  /** As loud as the loudest can be made without any of them going over the ceiling. */
  | { readonly kind: 'loudest'; readonly ceilingDbtp: number }
  /** Highest sample at a level, each by itself. */
  | { readonly kind: 'peak'; readonly dbfs: number };

export interface Matched {
  readonly levels: readonly LevelSetting[];
  /** Loudness that all come to; null where peaks were matched, or nothing could be. */
  readonly lufs: number | null;
  /** Lines that could not be measured, and those whose level goes no further. */
  readonly unmeasured: number;
  readonly short: number;
}

/** Levels are set to this. */
const STEP_DB = 0.01;

/** What sets the lines to the wish, in the order in which they are given. Pure. */
export function match(lines: readonly BalanceLine[], wish: MatchWish): Matched {
  const lufs = wish.kind === 'loudness' ? wish.lufs : wish.kind === 'loudest' ? loudestFor(lines, wish.ceilingDbtp) : null;
  let unmeasured = 0;
  let short = 0;
  const levels = lines.flatMap((line): LevelSetting[] => {
    const { trackId, clipId, gainDb, after } = line;
    const is = wish.kind === 'peak' ? after.samplePeakDbfs : after.lufs;
    const to = wish.kind === 'peak' ? wish.dbfs : lufs;
    if (is === null || to === null) {
      unmeasured++;
      return [];
    }
    const { min, max } = clipId === null ? TRACK_GAIN_DB : CLIP_GAIN_DB;
    const wished = gainDb + to - is;
    const held = Math.max(min, Math.min(max, wished));
    if (Math.abs(held - wished) > STEP_DB) short++;
    return [{ trackId, ...(clipId === null ? {} : { clipId }), gainDb: Math.round(held / STEP_DB) * STEP_DB }];
  });
  return { levels, lufs, unmeasured, short };
}

/** The loudness at which the line with the most peak over its loudness just stays under the ceiling. */
function loudestFor(lines: readonly BalanceLine[], ceilingDbtp: number): number | null {
  const possible = lines.flatMap(({ after: { lufs, truePeakDbtp } }) =>
    lufs === null || truePeakDbtp === null ? [] : [ceilingDbtp - (truePeakDbtp - lufs)],
  );
  return possible.length === 0 ? null : Math.min(...possible);
}
