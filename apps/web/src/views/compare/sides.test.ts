import { applyEdit, createDocument, WHOLE, type Edit } from '@euphonos/engine';
import { compareSpan } from './compare-span.js';
import { equalGainsDb } from './equal-gains.js';
import { sidesOf } from './sides.js';

const of = { lengthFrames: 4_800_000, sampleRateHz: 48_000, channels: 1 };
const document = createDocument([
  { id: 'r1', name: 'Anna', ...of },
  { id: 'r2', name: 'Ben', ...of },
]);
const after = (...edits: Edit[]) => edits.reduce(applyEdit, document);
const own = { trackId: 'track-1' };
const worked = after(
  { type: 'add-treatment', ...own, kind: 'compressor', treatmentId: 'c' },
  { type: 'keep-version', id: 'v', name: 'Dense', keptAt: '2026-11-29T00:00:00.000Z' },
  { type: 'remove-treatment', ...own, treatmentId: 'c' },
  { type: 'set-track', ...own, muted: true },
  { type: 'add-treatment', trackId: WHOLE, kind: 'limiter', treatmentId: 'l' },
);
const kinds = (side: { document: typeof document }, track = 0) =>
  side.document.tracks[track]!.chain.treatments.filter(({ bypassed }) => !bypassed).map(({ kind }) => kind);

test('of a track: result, source, versions, and without one of its treatments, by itself and heard though it is muted', () => {
  const sides = sidesOf(worked, 'track-1');
  expect(sides.slice(0, 3).map(({ name, which }) => [name, which])).toEqual([
    ['Result', 'result'],
    ['Source', 'source'],
    ['Dense', 'result'],
  ]);
  for (const { document: heard } of sides) {
    expect(heard.tracks.map(({ id, muted }) => [id, muted])).toEqual([['track-1', false]]);
    expect(heard.chain.treatments).toEqual([]);
  }
  expect(kinds(sides[2]!)).toContain('compressor');
  expect(kinds(sides[0]!)).not.toContain('compressor');
  const on = worked.tracks[0]!.chain.treatments.filter(({ bypassed }) => !bypassed);
  expect(sides).toHaveLength(3 + on.length);
  expect(kinds(sides[3]!)).toEqual(on.slice(1).map(({ kind }) => kind));
});

test('of the mix: all tracks, levels and the chain on the whole, and without one of its treatments', () => {
  const sides = sidesOf(worked, null);
  expect(sides.map(({ name }) => name)).toEqual(['Result', 'As it was recorded', 'Dense', 'Without Limiter']);
  expect(sides[0]!.document).toBe(worked);
  expect(sides[2]!.document.chain.treatments).toEqual([]);
  expect(sides[2]!.document.tracks[0]!.muted).toBe(false);
  expect(sides[3]!.document.chain.treatments).toMatchObject([{ id: 'l', bypassed: true }]);
});

test('a version knows nothing of tracks and recordings that came later', () => {
  const reel = [{ ...worked.tracks[0]!.reel[0]!, recordingId: 'other' }];
  const later = { ...worked, tracks: worked.tracks.map((track, i) => (i === 0 ? { ...track, reel } : track)) };
  expect(kinds(sidesOf(later, null)[2]!)).not.toContain('compressor');
});

describe('what brings both to one loudness', () => {
  const sound = (lufs: number | null, truePeakDbtp: number | null) => ({ lufs, truePeakDbtp });
  test('the softer one is raised where its peaks let it', () => {
    expect(equalGainsDb([sound(-26, -12), sound(-20, -6)])).toEqual([6, 0]);
  });
  test('else the louder one comes down to it', () => {
    // Raised by 5 dB the first one peaks at -1 dBTP: that is -21 LUFS, to which the second one is lowered.
    expect(equalGainsDb([sound(-26, -6), sound(-16, -3)])).toEqual([5, -5]);
  });
  test('silence is left as it is', () => {
    expect(equalGainsDb([sound(null, null), sound(-20, -6)])).toEqual([0, 0]);
    expect(equalGainsDb([sound(null, null), sound(null, null)])).toEqual([0, 0]);
  });
});

describe('what is compared', () => {
  const at = { selection: null, loop: null, frame: 96_000, lengthFrames: 4_800_000 };
  const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });
  test('the selection, else the loop, else what comes at the playhead', () => {
    const [selection, loop] = [span(48_000, 96_000), span(0, 480_000)];
    expect(compareSpan({ ...at, selection, loop }, 48_000)).toEqual(selection);
    expect(compareSpan({ ...at, loop }, 48_000)).toEqual(loop);
    expect(compareSpan({ ...at, selection: span(0, 100), loop }, 48_000)).toEqual(loop);
    expect(compareSpan(at, 48_000)).toEqual(span(96_000, 96_000 + 20 * 48_000));
  });
  test('what lies behind the end of the track is not compared', () => {
    expect(compareSpan({ ...at, selection: span(4_900_000, 5_000_000), loop: span(0, 48_000) }, 48_000)).toEqual(span(0, 48_000));
    expect(compareSpan({ ...at, selection: span(4_700_000, 5_000_000) }, 48_000)).toEqual(span(4_700_000, 4_800_000));
  });
  test('never more than a minute, and within what there is', () => {
    expect(compareSpan({ ...at, selection: span(0, 4_800_000) }, 48_000)).toEqual(span(0, 60 * 48_000));
    expect(compareSpan({ ...at, frame: 4_799_999 }, 48_000)).toEqual(span(4_800_000 - 20 * 48_000, 4_800_000));
    expect(compareSpan({ ...at, lengthFrames: 48_000 }, 48_000)).toEqual(span(0, 48_000));
  });
});
