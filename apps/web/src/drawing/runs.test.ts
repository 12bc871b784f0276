import { applyEdit, createDocument, type ClipSound, type SessionDocument, type Span } from '@euphonos/engine';
import { runsIn } from './runs.js';

const LENGTH = 480_000;
const of = { trackId: 'track-1' };
const recorded = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: 48_000, channels: 1 });
const span = (startFrame: number, endFrame: number): Span => ({ startFrame, endFrame });
const runs = ({ tracks: [track] }: SessionDocument, from = 0, to = LENGTH) =>
  runsIn(track!.clips, track!.roomTone, from, to).map(({ startFrame, endFrame, offset, kind }) => [startFrame, endFrame, offset, kind]);
const fill = (document: SessionDocument, at: Span, sound: ClipSound): SessionDocument =>
  applyEdit(document, { type: 'fill-spans', ...of, spans: [{ ...at, sound }] });

test('what is only split is one run; a cut shifts what follows; a gap is none', () => {
  expect(runs(applyEdit(recorded, { type: 'split-clips', ...of, frames: [5000, 90_000] }))).toEqual([[0, LENGTH, 0, 'recording']]);
  expect(runs(applyEdit(recorded, { type: 'cut-spans', ...of, spans: [span(1000, 3000)], close: true }))).toEqual([
    [0, 1000, 0, 'recording'],
    [1000, LENGTH - 2000, 2000, 'recording'],
  ]);
  expect(runs(applyEdit(recorded, { type: 'cut-spans', ...of, spans: [span(1000, 3000)], close: false }))).toEqual([
    [0, 1000, 0, 'recording'],
    [3000, LENGTH, 0, 'recording'],
  ]);
});

test('levels are those of the clips, with their lines', () => {
  const lowered = applyEdit(recorded, { type: 'level-spans', ...of, spans: [span(1000, 3000)], byDb: -6 });
  const [, run] = runsIn(lowered.tracks[0]!.clips, null, 0, LENGTH);
  expect(run!.gainAt(2000)).toBeCloseTo(0.501, 3);
  const lined = applyEdit(recorded, {
    type: 'shape-clip',
    ...of,
    clipId: 'c1',
    shape: {
      line: [
        { frame: 0, gainDb: 0 },
        { frame: 100, gainDb: -20 },
      ],
    },
  });
  expect(runsIn(lined.tracks[0]!.clips, null, 0, LENGTH)[0]!.gainAt(50)).toBeCloseTo(10 ** -0.5, 4);
  expect(runsIn(fill(recorded, span(1000, 3000), { kind: 'silence' }).tracks[0]!.clips, null, 0, LENGTH)[1]!.gainAt(2000)).toBe(0);
});

test('room tone is drawn as its passage, over and over, as far as it is in view', () => {
  const toned = fill(applyEdit(recorded, { type: 'set-room-tone', ...of, span: span(0, 20_000) }), span(100_000, 150_000), {
    kind: 'room-tone',
    gainDb: 0,
  });
  expect(runs(toned, 90_000, 130_000)).toEqual([
    [0, 100_000, 0, 'recording'],
    [100_000, 120_000, -100_000, 'room-tone'],
    [120_000, 140_000, -120_000, 'room-tone'],
  ]);
});
