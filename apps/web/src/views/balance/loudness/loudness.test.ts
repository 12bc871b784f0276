import type { LoudnessCourse } from '@euphonos/dsp';
import { applyEdit, createDocument, WHOLE, type Edit } from '@euphonos/engine';
import { LiveTrail } from './live-trail.js';
import { lastOf, lineOf, valueAt } from './measures.js';
import { scopeOf } from '../../../workbench/scope.js';

const recording = { lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 };
const document = createDocument([
  { id: 'r1', name: 'Anna', ...recording },
  { id: 'r2', name: 'Bed', ...recording },
]);

const after = (...edits: Edit[]) => edits.reduce(applyEdit, document);

describe('what is shown', () => {
  test('nothing chosen is the mix as it is rendered', () => {
    expect(scopeOf(document, new Set())).toEqual({ document, span: { startFrame: 0, endFrame: 480_000 }, words: 'the mix', key: '' });
  });

  test('chosen tracks sound alone, muted or not, before the chain on the whole', () => {
    const muted = after(
      { type: 'add-treatment', trackId: WHOLE, kind: 'limiter', treatmentId: 'l' },
      { type: 'set-track', trackId: 'track-1', muted: true },
    );
    const { document: shown, words, span } = scopeOf(muted, new Set(['track-1/']));
    expect(shown.tracks.map(({ id, muted: off }) => [id, off])).toEqual([['track-1', false]]);
    expect(shown.chain.treatments).toEqual([]);
    expect([words, span.endFrame]).toEqual(['Anna', 480_000]);
    expect(scopeOf(muted, new Set(['track-1/', 'track-2/'])).words).toBe('2 tracks together');
  });

  test('one chosen clip is its stretch of the session; several are their tracks', () => {
    const cut = after({ type: 'split-clips', trackId: 'track-1', frames: [240_000] });
    const [, second] = cut.tracks[0]!.clips;
    expect(scopeOf(cut, new Set([`track-1/${second!.id}`]))).toMatchObject({
      span: { startFrame: 240_000, endFrame: 480_000 },
      words: 'Anna at 0:05.0',
    });
    const both = new Set(cut.tracks[0]!.clips.map(({ id }) => `track-1/${id}`));
    expect(scopeOf(cut, both)).toMatchObject({ span: { startFrame: 0 }, words: 'Anna' });
  });
});

describe('lines', () => {
  // Ten seconds of -20 LUFS, then ten of -30.
  const course: LoudnessCourse = {
    momentaryLufs: Float32Array.from({ length: 197 }, (_, i) => (i < 98 ? -20 : -30)),
    shortTermLufs: Float32Array.from({ length: 171 }, (_, i) => (i < 85 ? -20 : -30)),
  };

  test('values stand in the middle of what they are of', () => {
    expect(valueAt(lineOf(course, 'momentary', 0, 20), 0.2)).toBe(-20);
    expect(valueAt(lineOf(course, 'momentary', 0, 20), 19.8)).toBe(-30);
    expect(valueAt(lineOf(course, 'short-term', 0, 20), 1)).toBeUndefined();
    expect(valueAt(lineOf(course, 'short-term', 0, 20), 1.5)).toBe(-20);
  });

  test('so far counts from where it is asked for', () => {
    expect(lastOf(lineOf(course, 'so far', 0, 9))).toBeCloseTo(-20, 3);
    expect(lastOf(lineOf(course, 'so far', 11, 20))).toBeCloseTo(-30, 3);
    expect(lineOf(course, 'so far', 11, 20).firstSeconds).toBeCloseTo(11.4);
    expect(lastOf(lineOf(course, 'so far', 11, 11.2))).toBeNull();
  });
});

test('what was heard is a run as long as it plays; another place begins another one; heard again is heard anew', () => {
  const trail = new LiveTrail();
  const told = jest.fn();
  trail.subscribe(told);
  for (const [at, lufs] of [
    [1, -20],
    [1.02, -19],
    [1.1, -21],
    [5, -22],
    [5.1, -23],
    [1, -30],
    [2, -Infinity],
    [-0.5, -20],
  ] as const)
    trail.note(at, lufs);
  expect(told).toHaveBeenCalledTimes(5);
  expect(trail.runs).toEqual(
    [
      [
        [1, -30],
        [1.1, -21],
      ],
      [
        [5, -22],
        [5.1, -23],
      ],
    ].map((run) => run.map(([at, lufs]) => [expect.closeTo(at!, 6), lufs])),
  );
  trail.clear();
  expect(trail.runs).toEqual([]);
});
