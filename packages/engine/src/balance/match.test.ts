import { applyEdit } from '../document/edits.js';
import { record, startHistory, undo } from '../document/history.js';
import { fresh, of, codeOf } from '../testing/documents.js';
import { raised, spreadLu, type BalanceLine, type Level } from './levels.js';
import { match } from './match.js';

const level = (lufs: number | null, truePeakDbtp: number | null = lufs === null ? null : lufs + 15): Level => ({
  lufs,
  rangeLu: 4,
  truePeakDbtp,
  samplePeakDbfs: truePeakDbtp,
  floorDbfs: -60,
  dcOffset: 0,
});
const line = (trackId: string, lufs: number | null, gainDb = 0, truePeakDbtp?: number, clipId: string | null = null): BalanceLine => ({
  trackId,
  clipId,
  gainDb,
  before: level(lufs, truePeakDbtp),
  after: level(lufs, truePeakDbtp),
});

test('to a loudness: what is set already counts, and each comes to it', () => {
  const { levels, lufs, short } = match([line('a', -26), line('b', -17.5, -3)], { kind: 'loudness', lufs: -18 });
  expect(lufs).toBe(-18);
  expect(levels).toEqual([
    { trackId: 'a', gainDb: expect.closeTo(8, 9) },
    { trackId: 'b', gainDb: expect.closeTo(-3.5, 9) },
  ]);
  expect(short).toBe(0);
});

test('loudest: the line with the most peak over its loudness decides, and none goes over the ceiling', () => {
  const lines = [line('a', -26, 0, -8), line('b', -20, 2, -7)];
  const { levels, lufs } = match(lines, { kind: 'loudest', ceilingDbtp: -1 });
  expect(lufs).toBe(-19);
  const after = lines.map((one, i) => raised(one.after, levels[i]!.gainDb - one.gainDb));
  expect(after.map((one) => one.lufs)).toEqual([expect.closeTo(-19, 9), expect.closeTo(-19, 9)]);
  expect(Math.max(...after.map((one) => one.truePeakDbtp!))).toBeCloseTo(-1, 9);
});

test('peaks: each by itself', () => {
  const { levels } = match([line('a', -26, 0, -9), line('b', -20, 1, -2)], { kind: 'peak', dbfs: -6 });
  expect(levels.map(({ gainDb }) => gainDb)).toEqual([expect.closeTo(3, 9), expect.closeTo(-3, 9)]);
});

test('what cannot be measured is left and counted; what goes no further is told', () => {
  const result = match([line('a', null), line('b', -50), line('c', -80, 0, -70, 'c1')], { kind: 'loudness', lufs: -16 });
  expect(result).toMatchObject({ unmeasured: 1, short: 2 });
  expect(result.levels).toEqual([
    { trackId: 'b', gainDb: 24 },
    { trackId: 'c', clipId: 'c1', gainDb: 24 },
  ]);
  expect(match([line('a', null)], { kind: 'loudest', ceilingDbtp: -1 })).toMatchObject({ levels: [], lufs: null });
});

test('levels of tracks and clips are one step, held in their ranges, undone together', () => {
  let history = startHistory(fresh());
  history = record(history, { type: 'split-clips', ...of, frames: [20_000] });
  const clips = history.present.tracks[0]!.clips;
  const levels = [
    { ...of, gainDb: -4.25 },
    { ...of, clipId: clips[1]!.id, gainDb: 99 },
  ];
  const before = history.present;
  history = record(history, { type: 'set-levels', title: 'Match 2 levels', levels });
  expect(history.past.at(-1)!.label).toBe('Match 2 levels');
  expect(history.present.tracks[0]!.gainDb).toBe(-4.25);
  expect(history.present.tracks[0]!.clips.map(({ gainDb }) => gainDb)).toEqual([0, 24]);
  expect(undo(history).present).toEqual(before);
  const unknown = { type: 'set-levels', title: '', levels: [{ trackId: 'nobody', gainDb: 0 }] } as const;
  expect(codeOf(() => applyEdit(before, unknown))).toBe('track-unknown');
});

test('spread', () => {
  expect(spreadLu([-20, null, -12.5, -16])).toBe(7.5);
  expect(spreadLu([-20, null])).toBeNull();
});
