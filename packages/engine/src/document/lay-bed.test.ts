import { Levels } from '../arrangement/levels.js';
import { codeOf, fresh, LENGTH, of } from '../testing/documents.js';
import { clipEnd } from './clip.js';
import { applyEdit } from './edits.js';
import { record, startHistory, undo } from './history.js';

const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });

test('pieces follow each other from where the bed began, crossfaded, at its gain; one step', () => {
  let history = startHistory(fresh());
  const first = history.present.tracks[0]!.clips[0]!.id;
  history = record(history, { type: 'shape-clip', ...of, clipId: first, shape: { gainDb: -6 } });
  history = record(history, { type: 'shift-track', ...of, byFrames: 10_000 });
  const before = history.present;
  const pieces = [span(0, 200_000), span(50_000, 300_000), span(20_000, 400_000)];
  const edit = { type: 'lay-bed', ...of, title: 'Bed 0:17 long', pieces, crossFrames: 1920, fadeFrames: 48_000 } as const;
  history = record(history, edit);
  const { clips } = history.present.tracks[0]!;
  expect(clips.map(({ startFrame }) => startFrame)).toEqual([10_000, 210_000, 460_000]);
  expect(clipEnd(clips[2]!)).toBe(10_000 + 830_000);
  expect(clips.map(({ gainDb }) => gainDb)).toEqual([-6, -6, -6]);
  expect(new Set(clips.map(({ id }) => id)).size).toBe(3);
  const levels = Levels.of(clips, LENGTH, 48_000);
  expect(levels.at(209_000)).toBeCloseTo(10 ** (-6 / 20), 6);
  expect(levels.at(840_000 - 24_000)).toBeCloseTo(10 ** (-6 / 20) / 2, 3);
  expect(history.past.at(-1)!.label).toBe('Bed 0:17 long');
  expect(undo(history).present).toEqual(before);
});

test('a piece beyond the recording is refused', () => {
  const edit = { type: 'lay-bed', ...of, title: '', pieces: [span(0, LENGTH + 1)], crossFrames: 0, fadeFrames: 0 } as const;
  expect(codeOf(() => applyEdit(fresh(), edit))).toBe('span-outside');
});

test('treatments for several tracks are one step', () => {
  let history = startHistory(fresh());
  const before = history.present;
  const settings = { kind: 'bleed', id: '', bypassed: false, reductionDb: 18, fadeMs: 60, bleed: [] } as never;
  history = record(history, { type: 'take-suggestions', title: 'Lower bleed', items: [{ ...of, treatmentId: 'b', settings }] });
  expect(history.present.tracks[0]!.chain.treatments.map(({ kind }) => kind)).toContain('bleed');
  expect(history.past.at(-1)!.label).toBe('Lower bleed');
  expect(undo(history).present).toEqual(before);
});
