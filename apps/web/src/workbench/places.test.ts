import { applyEdit, createDocument } from '@euphonos/engine';
import { Places } from './places.js';

const RATE = 48_000;
const of = { trackId: 'track-1' };
const recorded = createDocument({ id: 'r', name: 'n', lengthFrames: 10 * RATE, sampleRateHz: RATE, channels: 1 });
const cut = applyEdit(recorded, { type: 'cut-spans', ...of, spans: [{ startFrame: 2 * RATE, endFrame: 3 * RATE }], close: true });
const places = new Places(cut.tracks[0]!.clips, RATE);

test('seconds of the recording go to where they sound; what was cut is nowhere', () => {
  expect(places.ofSeconds({ startSeconds: 4, endSeconds: 5 })).toEqual([{ startFrame: 3 * RATE, endFrame: 4 * RATE }]);
  expect(places.ofSeconds({ startSeconds: 2.2, endSeconds: 2.8 })).toEqual([]);
  // Over the cut: what is left on either side, as one.
  expect(places.ofSeconds({ startSeconds: 1, endSeconds: 4 })).toEqual([{ startFrame: RATE, endFrame: 3 * RATE }]);
  // A moment is a frame.
  expect(places.ofSeconds({ startSeconds: 6, endSeconds: 6 })).toEqual([{ startFrame: 5 * RATE, endFrame: 5 * RATE + 1 }]);
});

test('a selection over a joint is two stretches of the recording, of which the longer one counts', () => {
  const selection = { startFrame: RATE, endFrame: 2.5 * RATE };
  expect(places.recorded(selection)).toEqual([
    { startFrame: RATE, endFrame: 2 * RATE },
    { startFrame: 3 * RATE, endFrame: 3.5 * RATE },
  ]);
  expect(places.recordedSeconds(selection)).toEqual({ startSeconds: 1, endSeconds: 2 });
  expect(places.recordedFrame(2.5 * RATE)).toBe(3.5 * RATE);
});

test('nothing sounds in a gap', () => {
  const gap = new Places(
    applyEdit(recorded, { type: 'cut-spans', ...of, spans: [{ startFrame: 2 * RATE, endFrame: 3 * RATE }], close: false }).tracks[0]!.clips,
    RATE,
  );
  expect([gap.recordedSeconds({ startFrame: 2.2 * RATE, endFrame: 2.8 * RATE }), gap.recordedFrame(2.5 * RATE)]).toEqual([null, null]);
});
