import type { BatchItemView } from '@euphonos/contracts';
import { nextUnheard, sorted } from './sort-items.js';

const item = (sessionId: string, part: Partial<BatchItemView>): BatchItemView =>
  ({
    sessionId,
    fileName: `take ${sessionId}.wav`,
    seconds: null,
    step: 'done',
    needsEar: [],
    accepted: false,
    noiseFloorDbfs: [null, null],
    integratedLufs: null,
    ...part,
  }) as BatchItemView;
const items = [
  item('10', { needsEar: ['a', 'b'], integratedLufs: -16 }),
  item('2', { step: 'failed' }),
  item('9', { needsEar: ['a'], integratedLufs: -18, accepted: true }),
  item('1', { step: 'rendering' }),
];
const ids = (list: readonly BatchItemView[]): string[] => list.map(({ sessionId }) => sessionId);

test('names go by their numbers; what has no value comes last, whatever the direction', () => {
  expect(ids(sorted(items, 'name', false))).toEqual(['1', '2', '9', '10']);
  expect(ids(sorted(items, 'loudness', false))).toEqual(['9', '10', '2', '1']);
  expect(ids(sorted(items, 'loudness', true))).toEqual(['10', '9', '2', '1']);
});
test('what needs an ear most comes first; what failed before all that is under way', () => {
  expect(ids(sorted(items, 'ear', false))).toEqual(['10', '9', '2', '1']);
  expect(ids(sorted(items, 'state', false))).toEqual(['2', '1', '10', '9']);
  expect(ids(sorted(items, 'as it came', true))).toEqual(ids(items));
});
test('the next that nobody has heard, round the end', () => {
  expect(nextUnheard(items, '9')).toBe('10');
  expect(nextUnheard(items, null)).toBe('10');
  expect(
    nextUnheard(
      items.map((one) => ({ ...one, accepted: true })),
      '9',
    ),
  ).toBeNull();
});
