import fc from 'fast-check';
import { clipEnd } from './clip.js';
import { codeOf, fresh, LENGTH, of, trackOf } from '../testing/documents.js';
import { applyEdit, type Edit } from './edits.js';
import { parseDocument } from './parse.js';

const facts = (id: string, lengthFrames: number) => ({ id, name: 'Guest', lengthFrames, sampleRateHz: 48_000, channels: 1 });
const take = (ppm: number): Edit => ({
  type: 'take-drift-out',
  ...of,
  atFrame: 0,
  recording: facts('r2', Math.round(LENGTH * (1 + ppm * 1e-6))),
});
const worked = [
  { type: 'shift-track', ...of, byFrames: 9000 },
  { type: 'split-clips', ...of, frames: [100_000, 200_003] },
  { type: 'cut-spans', ...of, spans: [{ startFrame: 300_000, endFrame: 310_000 }], close: false },
  { type: 'set-noise', ...of, noise: { kind: 'passages', spans: [{ startFrame: 400_000, endFrame: 440_000 }] } },
  { type: 'set-room-tone', ...of, span: { startFrame: 400_000, endFrame: LENGTH } },
].reduce((document, edit) => applyEdit(document, edit as Edit), fresh());

test('clips, passages and room tone go along; what touched still touches, and all of it can be read again', () => {
  fc.assert(
    fc.property(fc.integer({ min: -400, max: 400 }), (ppm) => {
      const next = applyEdit(worked, take(ppm));
      const [before, after] = [trackOf(worked), trackOf(next)];
      const factor = 1 + ppm * 1e-6;
      expect(after.clips[0]!.startFrame).toBe(9000);
      before.clips.forEach((clip, i) => {
        const moved = after.clips[i]!;
        expect(Math.abs(moved.startFrame - (9000 + (clip.startFrame - 9000) * factor))).toBeLessThanOrEqual(1);
        expect(Math.abs(moved.source.startFrame - clip.source.startFrame * factor)).toBeLessThanOrEqual(1);
        const touches = before.clips[i + 1]?.startFrame === clipEnd(clip);
        if (touches) expect(Math.abs(after.clips[i + 1]!.startFrame - clipEnd(moved))).toBeLessThanOrEqual(1);
      });
      expect(parseDocument(JSON.parse(JSON.stringify(next)))).toEqual(next);
    }),
  );
});

test('what differs by more than a clock drifts is refused', () => {
  expect(codeOf(() => applyEdit(worked, { ...take(0), recording: facts('r2', LENGTH + 5000) } as Edit))).toBe('length-other');
});
