import fc from 'fast-check';
import type { Edit } from './edits.js';
import { historyLog, record, replay, startHistory, undo, type History } from './history.js';
import { fresh, LENGTH, of } from '../testing/documents.js';

const edits: fc.Arbitrary<readonly [Edit, boolean]> = fc.tuple(
  fc.oneof(
    fc.record({
      type: fc.constant('set-parameter' as const),
      trackId: fc.constant('track-1'),
      treatmentId: fc.constant('t4'),
      name: fc.constantFrom('openDb', 'closeDb'),
      value: fc.integer({ min: -90, max: 0 }),
    }),
    fc.record({
      type: fc.constant('move-treatment' as const),
      trackId: fc.constant('track-1'),
      treatmentId: fc.constantFrom('t1', 't3'),
      toIndex: fc.integer({ min: 0, max: 3 }),
    }),
    fc.integer({ min: 1, max: LENGTH }).map((endFrame): Edit => ({ type: 'set-loop', ...of, span: { startFrame: 0, endFrame } })),
  ),
  fc.boolean(),
);
const story = (list: readonly (readonly [Edit, boolean])[], undone: number): History => {
  let history = list.reduce((h, [edit, same]) => record(h, edit, same), startHistory(fresh()));
  for (let i = 0; i < undone; i++) history = undo(history);
  return history;
};

test('a log that went through JSON gives back the same history: every step, its words, what was undone', () => {
  fc.assert(
    fc.property(fc.array(edits, { maxLength: 15 }), fc.nat(5), (list, undone) => {
      const history = story(list, undone);
      expect(replay(JSON.parse(JSON.stringify(historyLog(history, 1000))))).toEqual(history);
    }),
  );
});

test('of a long history the last steps are kept, and undoing them ends where they began', () => {
  const history = story(
    Array.from({ length: 30 }, (_, i) => [{ type: 'set-loop', ...of, span: { startFrame: 0, endFrame: 1000 + i } }, false] as const),
    0,
  );
  const short = replay(historyLog(history, 10));
  expect(short.past).toHaveLength(10);
  expect(short.present).toEqual(history.present);
  expect(short.past[0]!.document).toEqual(history.past[20]!.document);
});

test('one drag is kept as its last edit; one that takes another ruler along as all it needs', () => {
  const drag = (name: string, values: readonly number[]): History =>
    values.reduce(
      (h, value, i) => record(h, { type: 'set-parameter', ...of, treatmentId: 't4', name, value }, i > 0),
      startHistory(fresh()),
    );
  expect(historyLog(drag('openDb', [-40, -38, -36]), 10).past[0]).toHaveLength(1);
  // Down to -60 and back: the closing level was taken along on the way, and stays there.
  const along = drag('openDb', [-50, -60, -40]);
  expect(historyLog(along, 10).past[0]!.length).toBeGreaterThan(1);
  expect(replay(historyLog(along, 10))).toEqual(along);
});
