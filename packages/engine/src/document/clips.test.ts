import fc from 'fast-check';
import { endOf, Placer, recordingFrameAt, recordingSpans, takenFinder } from '../arrangement/places.js';
import { codeOf, fresh, LENGTH, of, trackOf } from '../testing/documents.js';
import { clipEnd, clipFrames, type Clip } from './clip.js';
import { copySpan } from './clip-moves.js';
import type { ClipsEdit } from './clips-edit.js';
import type { SessionDocument } from './document.js';
import type { Span } from './span.js';
import { applyEdit, type Edit } from './edits.js';
import { record, startHistory, undo } from './history.js';
import { parseDocument } from './parse.js';

/** Without the track, which is always the same one. */
type Plain<E> = E extends ClipsEdit ? Omit<E, 'trackId'> : never;
const edit = (plain: Plain<ClipsEdit>): Edit => ({ ...of, ...plain }) as Edit;
const after = (...edits: Plain<ClipsEdit>[]): SessionDocument => edits.map(edit).reduce(applyEdit, fresh());
const clipsOf = (document: SessionDocument): readonly Clip[] => trackOf(document).clips;
const span = (startFrame: number, endFrame: number): Span => ({ startFrame, endFrame });
const places = (document: SessionDocument) =>
  clipsOf(document).map(({ startFrame, source }) => [startFrame, source.startFrame, source.endFrame]);

const frame = fc.integer({ min: 0, max: LENGTH });
const spans = fc.array(
  fc.tuple(frame, frame).map(([a, b]) => span(Math.min(a, b), Math.max(a, b) + 1)),
  { minLength: 1, maxLength: 4 },
);
/** Any edit of clips, some of which do not fit. */
const edits: fc.Arbitrary<Plain<ClipsEdit>> = fc.oneof(
  fc.record({ type: fc.constant('split-clips' as const), frames: fc.array(frame, { minLength: 1, maxLength: 4 }) }),
  fc.record({ type: fc.constant('cut-spans' as const), spans, close: fc.boolean() }),
  fc.record({ type: fc.constant('level-spans' as const), spans, byDb: fc.integer({ min: -20, max: 6 }) }),
  spans.map((list) => ({ type: 'fill-spans' as const, spans: list.map((item) => ({ ...item, sound: { kind: 'silence' as const } })) })),
  fc.tuple(spans, frame).map(([[first], atFrame]) => ({
    type: 'paste-clips' as const,
    copied: copySpan(trackOf(fresh()), span(Math.min(first!.startFrame, LENGTH - 2000), Math.min(first!.startFrame, LENGTH - 2000) + 1500)),
    atFrame,
  })),
  fc.record({ type: fc.constant('move-span' as const), span: spans.map(([first]) => first!), toFrame: frame }),
  fc.record({
    type: fc.constant('trim-clip' as const),
    clipId: fc.constantFrom('c1', 'c2', 'c3'),
    edge: fc.constantFrom('start' as const, 'end' as const),
    toFrame: frame,
  }),
  fc.record({ type: fc.constant('move-joint' as const), clipId: fc.constantFrom('c2', 'c3'), toFrame: frame }),
  fc.record({
    type: fc.constant('move-clips' as const),
    clipIds: fc.constantFrom(['c1'], ['c2'], ['c2', 'c3']),
    byFrames: fc.integer({ min: -LENGTH, max: LENGTH }),
  }),
  fc.record({
    type: fc.constant('give-back' as const),
    clipId: fc.constantFrom('c1', 'c2', 'c3'),
    side: fc.constantFrom('before' as const, 'after' as const),
  }),
  fc.record({
    type: fc.constant('shape-clip' as const),
    clipId: fc.constantFrom('c1', 'c2'),
    shape: fc.record({
      gainDb: fc.integer({ min: -90, max: 40 }),
      line: fc.array(fc.record({ frame, gainDb: fc.integer({ min: -80, max: 30 }) }), { maxLength: 5 }),
    }),
  }),
);
/** What can be done is done; what is refused changes nothing. */
const done = (
  list: readonly Plain<ClipsEdit>[],
  each: (document: SessionDocument, edit: Edit) => void = () => undefined,
): SessionDocument =>
  list.map(edit).reduce((document, next) => {
    try {
      const changed = applyEdit(document, next);
      each(changed, next);
      return changed;
    } catch {
      return document;
    }
  }, fresh());

test('whatever is done: no clip over another, all within the recording, none empty, and it can be stored and read back', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 10 }), (list) => {
      const document = done(list);
      const clips = clipsOf(document);
      clips.forEach((clip, i) => {
        expect(clip.startFrame).toBeGreaterThanOrEqual(i === 0 ? 0 : clipEnd(clips[i - 1]!));
        expect(clipFrames(clip)).toBeGreaterThan(0);
        expect(clip.source.startFrame).toBeGreaterThanOrEqual(0);
        expect(clip.source.endFrame).toBeLessThanOrEqual(LENGTH);
      });
      expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    }),
  );
});

test('undo returns the same document, step by step, to the source', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 8 }), (list) => {
      const states = [startHistory(fresh())];
      done(list, (_, next) => states.push(record(states[states.length - 1]!, next)));
      let history = states[states.length - 1]!;
      for (const state of states.slice(0, -1).reverse()) {
        history = undo(history);
        expect(history.present).toEqual(state.present);
      }
      expect(history.present).toEqual(fresh());
    }),
  );
});

test('split, then join, is what there was; also with a gain and a line', () => {
  const line = [
    { frame: 1000, gainDb: -3 },
    { frame: 200_000, gainDb: 2 },
    { frame: 400_000, gainDb: -9 },
  ];
  const shaped = after({ type: 'shape-clip', clipId: 'c1', shape: { gainDb: -4, line } });
  fc.assert(
    fc.property(fc.array(frame, { minLength: 1, maxLength: 6 }), (frames) => {
      const split = applyEdit(shaped, edit({ type: 'split-clips', frames }));
      expect(clipsOf(applyEdit(split, edit({ type: 'join-clips', span: span(0, LENGTH) })))).toEqual(clipsOf(shaped));
    }),
  );
});

test('lengths add up: closing up takes the length of what was cut, leaving a gap takes none', () => {
  fc.assert(
    fc.property(spans, (list) => {
      const gone = new Set<number>();
      // Counted in steps of 1000 frames, as spans lie anywhere.
      const wanted = list
        .map(({ startFrame, endFrame }) =>
          span(Math.floor(startFrame / 1000) * 1000, Math.min(LENGTH - 1000, Math.ceil(endFrame / 1000) * 1000)),
        )
        .filter(({ startFrame, endFrame }) => endFrame > startFrame);
      for (const { startFrame, endFrame } of wanted) for (let at = startFrame; at < endFrame; at += 1000) gone.add(at);
      if (wanted.length === 0) return;
      const closed = done([{ type: 'cut-spans', spans: wanted, close: true }]);
      const sounding = clipsOf(closed).reduce((sum, clip) => sum + clipFrames(clip), 0);
      expect([sounding, endOf(clipsOf(closed))]).toEqual([LENGTH - gone.size * 1000, LENGTH - gone.size * 1000]);
      expect(endOf(clipsOf(done([{ type: 'cut-spans', spans: wanted, close: false }])))).toBe(LENGTH);
    }),
  );
});

test('what was cut is given back by its joint: to the very document, but for what was counted', () => {
  const back = (list: readonly Span[], close: boolean): void => {
    const cut = after({ type: 'cut-spans', spans: list, close });
    const given = clipsOf(cut)
      .slice(1)
      .reduce((document, { id }) => applyEdit(document, edit({ type: 'give-back', clipId: id, side: 'before' })), cut);
    expect(places(given)).toEqual([[0, 0, LENGTH]]);
  };
  for (const close of [true, false]) back([span(48_000, 96_000), span(200_000, 201_000)], close);
  const ends = after({ type: 'cut-spans', spans: [span(0, 1000), span(400_000, LENGTH)], close: true });
  expect(places(ends)).toEqual([[0, 1000, 400_000]]);
  const given = [{ side: 'before' as const }, { side: 'after' as const }].reduce(
    (document, { side }) => applyEdit(document, edit({ type: 'give-back', clipId: clipsOf(document)[0]!.id, side })),
    ends,
  );
  expect(places(given)).toEqual([[0, 0, LENGTH]]);
  expect(codeOf(() => applyEdit(given, edit({ type: 'give-back', clipId: clipsOf(given)[0]!.id, side: 'before' })))).toBe('nothing-cut');
});

test('silence and room tone keep the recording beneath; room tone needs a passage', () => {
  const tone = [{ ...span(1000, 2000), sound: { kind: 'room-tone' as const, gainDb: -2 } }];
  expect(codeOf(() => after({ type: 'fill-spans', spans: tone }))).toBe('tone-missing');
  const filled = after({ type: 'set-room-tone', span: span(50_000, 90_000) }, { type: 'fill-spans', spans: tone });
  expect(clipsOf(filled).map(({ sound }) => sound)).toEqual([
    { kind: 'recording' },
    { kind: 'room-tone', gainDb: -2 },
    { kind: 'recording' },
  ]);
  const id = clipsOf(filled)[1]!.id;
  expect(places(applyEdit(filled, edit({ type: 'give-back', clipId: id, side: 'before' })))).toEqual([[0, 0, LENGTH]]);
});

test('a span goes elsewhere, or sounds twice, and all else keeps its order', () => {
  expect(places(after({ type: 'move-span', span: span(100_000, 150_000), toFrame: 0 }))).toEqual([
    [0, 100_000, 150_000],
    [50_000, 0, 100_000],
    [150_000, 150_000, LENGTH],
  ]);
  expect(places(after({ type: 'move-span', span: span(0, 50_000), toFrame: LENGTH }))).toEqual([
    [0, 50_000, LENGTH],
    [430_000, 0, 50_000],
  ]);
  expect(places(after({ type: 'paste-clips', copied: copySpan(trackOf(fresh()), span(0, 1000)), atFrame: 5000 }))).toEqual([
    [0, 0, 5000],
    [5000, 0, 1000],
    [6000, 5000, LENGTH],
  ]);
});

test('an edge goes as far as the recording and its neighbours let it; a joint gives to one what it takes from the other', () => {
  const two = after({ type: 'split-clips', frames: [200_000] });
  const then = (next: Plain<ClipsEdit>, from = two) => places(applyEdit(from, edit(next)));
  expect(then({ type: 'trim-clip', clipId: 'c1', edge: 'end', toFrame: 150_000 })).toEqual([
    [0, 0, 150_000],
    [200_000, 200_000, LENGTH],
  ]);
  expect(then({ type: 'trim-clip', clipId: 'c1', edge: 'end', toFrame: 300_000 })).toEqual(places(two));
  expect(then({ type: 'move-joint', clipId: 'c2', toFrame: 180_000 })).toEqual([
    [0, 0, 180_000],
    [180_000, 180_000, LENGTH],
  ]);
  expect(then({ type: 'move-clips', clipIds: ['c2'], byFrames: 7000 })).toEqual([
    [0, 0, 200_000],
    [207_000, 200_000, LENGTH],
  ]);
  expect(then({ type: 'move-clips', clipIds: ['c2'], byFrames: -7000 })).toEqual(places(two));
});

test('the loop stays with its sound', () => {
  const looped = applyEdit(fresh(), { type: 'set-loop', ...of, span: span(200_000, 250_000) });
  const cut = applyEdit(looped, edit({ type: 'cut-spans', spans: [span(0, 100_000)], close: true }));
  expect(trackOf(cut).loop).toEqual(span(100_000, 150_000));
  expect(codeOf(() => applyEdit(cut, { type: 'set-loop', ...of, span: span(0, LENGTH) }))).toBe('span-outside');
});

test('nothing at all is not a track', () =>
  expect(codeOf(() => after({ type: 'cut-spans', spans: [span(0, LENGTH)], close: true }))).toBe('clips-none'));

test('places in the recording and in the session are each other’s', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 6 }), frame, (list, at) => {
      const clips = clipsOf(done(list));
      const placer = new Placer(clips);
      const recorded = recordingFrameAt(clips, at);
      if (recorded !== null) expect(placer.framesOf(recorded)).toContain(at);
      for (const place of placer.framesOf(at)) expect(recordingFrameAt(clips, place)).toBe(at);
      const total = recordingSpans(clips, span(0, endOf(clips))).reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0);
      expect(total).toBe(clips.reduce((sum, clip) => sum + clipFrames(clip), 0));
    }),
  );
});

test('every edit of clips has words, and a drag is one step', () => {
  const history = [edit({ type: 'level-spans', spans: [span(0, 1000)], byDb: -6 }), edit({ type: 'split-clips', frames: [5000] })].reduce(
    (h, next) => record(h, next),
    startHistory(fresh()),
  );
  expect(history.past.map(({ label }) => label)).toEqual(['Lower a span -6 dB', 'Split']);
  const dragged = [4000, 4100, 4200].reduce(
    (h, toFrame) => record(h, edit({ type: 'move-joint', clipId: clipsOf(history.present)[2]!.id, toFrame }), true),
    history,
  );
  expect(dragged.past).toHaveLength(3);
});

test('what was cut or filled is found by its place in the recording', () => {
  const cut = after(
    { type: 'cut-spans', spans: [span(0, 1000), span(50_000, 60_000)], close: true },
    { type: 'fill-spans', spans: [{ ...span(9000, 12_000), sound: { kind: 'silence' } }] },
  );
  const at = takenFinder(clipsOf(cut), trackOf(cut).reel);
  expect([500, 55_000].map((recorded) => at(recorded)?.source.startFrame)).toEqual([1000, 60_000]);
  expect(at(11_000)?.sound).toEqual({ kind: 'silence' });
  expect([at(5000), at(70_000)]).toEqual([null, null]);
});

test('a clip has a chain of its own: added to, set, emptied, told apart in the history, kept by both halves of a split', () => {
  const own = { ...of, clipId: 'c1' };
  const steps: Edit[] = [
    { type: 'add-treatment', ...own, kind: 'hum-notch', treatmentId: 'h' },
    { type: 'set-parameter', ...own, treatmentId: 'h', name: 'baseHz', value: 60 },
  ];
  const history = steps.reduce((h, next) => record(h, next), startHistory(fresh()));
  expect(history.past.map(({ label }) => label)).toEqual(['Clip, Add Hum notch', 'Clip, Hum notch: Base 60 Hz']);
  expect(trackOf(history.present).chain).toEqual(trackOf(fresh()).chain);
  const split = applyEdit(history.present, edit({ type: 'split-clips', frames: [100_000] }));
  expect(clipsOf(split).map(({ chain }) => chain?.treatments[0])).toMatchObject([{ baseHz: 60 }, { baseHz: 60 }]);
  const emptied = applyEdit(split, { type: 'remove-treatment', ...own, treatmentId: 'h' });
  expect(clipsOf(emptied).map(({ chain }) => chain === null)).toEqual([true, false]);
  // Not the same sound on both sides any more: they are two clips.
  expect(clipsOf(applyEdit(emptied, edit({ type: 'join-clips', span: span(0, LENGTH) })))).toHaveLength(2);
  expect(parseDocument(JSON.parse(JSON.stringify(split)))).toEqual(split);
});
