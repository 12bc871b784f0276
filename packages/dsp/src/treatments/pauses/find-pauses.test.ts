import { joined, noise, RATE_HZ, sine } from '../../testing/signals.js';
import { evenLevels, findPauses, LevelTracker, suggestPauseThresholds, type PauseRules } from './find-pauses.js';

/** Level of each stretch, dBFS, and its length. */
function levelsOf(...parts: readonly (readonly [dbfs: number, seconds: number])[]) {
  const tracker = new LevelTracker(RATE_HZ);
  const sound = joined(...parts.map(([dbfs, seconds], i) => noise(dbfs, seconds, i + 1)));
  tracker.process([sound], sound.length);
  const track = tracker.finish();
  return { levels: evenLevels(track), step: track.stepSeconds };
}
const rules = (part: Partial<PauseRules> = {}): PauseRules => ({
  decides: 'level',
  openDbfs: -42,
  closeDbfs: -47,
  shortestWordMs: 60,
  ...part,
});
const rounded = (spans: readonly { startSeconds: number; endSeconds: number }[]) =>
  spans.map(({ startSeconds, endSeconds }) => [Math.round(startSeconds * 20) / 20, Math.round(endSeconds * 20) / 20]);

test('levels are those of the sound, in any blocks', () => {
  const sound = joined(sine(1000, -20, 1), sine(1000, -40, 1));
  const whole = new LevelTracker(RATE_HZ);
  whole.process([sound, sound], sound.length);
  const pieces = new LevelTracker(RATE_HZ);
  for (let at = 0; at < sound.length; at += 777)
    pieces.process([sound.subarray(at, at + 777), sound.subarray(at, at + 777)], Math.min(777, sound.length - at));
  expect(pieces.finish()).toEqual(whole.finish());
  const { stepSeconds, meanSquares } = whole.finish();
  const levels = evenLevels({ stepSeconds, meanSquares });
  // A sine of that peak: 3 dB less in RMS.
  expect(levels[50]!).toBeCloseTo(-23, 1);
  expect(levels[300]!).toBeCloseTo(-43, 1);
});

test('opens above one level, closes below the other: what lies between them changes nothing', () => {
  const { levels, step } = levelsOf([-60, 1], [-25, 1], [-44.5, 0.5], [-25, 1], [-60, 1]);
  expect(rounded(findPauses(levels, step, [], rules()))).toEqual([
    [0, 1],
    [3.5, 4.5],
  ]);
  expect(rounded(findPauses(levels, step, [], rules({ closeDbfs: -43 })))).toEqual([
    [0, 1],
    [2, 2.5],
    [3.5, 4.5],
  ]);
});

test('what sounds shorter than a word parts no pause', () => {
  const { levels, step } = levelsOf([-60, 1], [-25, 0.05], [-60, 1], [-25, 1]);
  expect(rounded(findPauses(levels, step, [], rules({ shortestWordMs: 120 })))).toEqual([[0, 2.05]]);
  expect(rounded(findPauses(levels, step, [], rules({ shortestWordMs: 20 })))).toHaveLength(2);
});

test('a soft end of a word is kept where voice decides with it; a loud chair is kept where the level does', () => {
  // Talk to 2.3 s, of which the level misses the last 0.3 s; something loud at 3 s, where nobody talks.
  const { levels, step } = levelsOf([-25, 2], [-55, 0.3], [-60, 0.7], [-25, 0.3], [-60, 1]);
  const quiet = [{ startSeconds: 2.3, endSeconds: 4.3 }];
  expect(rounded(findPauses(levels, step, quiet, rules()))).toEqual([
    [2, 3],
    [3.3, 4.3],
  ]);
  expect(rounded(findPauses(levels, step, quiet, rules({ decides: 'both' })))).toEqual([
    [2.3, 3],
    [3.3, 4.3],
  ]);
  expect(rounded(findPauses(levels, step, quiet, rules({ decides: 'voice' })))).toEqual([[2.3, 4.3]]);
});

test('thresholds just above the floor of the gaps, 5 dB apart, and below the talk; none where there is no gap', () => {
  const { levels, step } = levelsOf([-60, 2], [-25, 2], [-60, 2]);
  const { openDbfs, closeDbfs } = suggestPauseThresholds(levels, step, [
    { startSeconds: 0, endSeconds: 2 },
    { startSeconds: 4, endSeconds: 6 },
  ])!;
  expect(openDbfs - closeDbfs).toBe(5);
  expect(closeDbfs).toBeGreaterThanOrEqual(-60);
  expect(closeDbfs).toBeLessThan(-57);
  expect(suggestPauseThresholds(levels, step, [])).toBeNull();
  const near = levelsOf([-35, 2], [-30, 2], [-35, 2]);
  expect(suggestPauseThresholds(near.levels, near.step, [{ startSeconds: 0, endSeconds: 2 }])!.closeDbfs).toBeLessThanOrEqual(-41);
});

test('a floor that stands perfectly still lies under the threshold all the same', () => {
  const levels = Float32Array.from({ length: 600 }, (_, i) => (i >= 200 && i < 400 ? -60 : -20));
  const quiet = [{ startSeconds: 2, endSeconds: 4 }];
  const thresholds = suggestPauseThresholds(levels, 0.01, quiet)!;
  expect(thresholds.closeDbfs).toBe(-59.5);
  expect(findPauses(levels, 0.01, quiet, rules({ decides: 'both', ...thresholds }))).toEqual(quiet);
});
