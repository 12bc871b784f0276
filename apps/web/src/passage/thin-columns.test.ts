import { thinColumns } from './thin-columns.js';

test('columns become their mean, row by row; what is left at the end is the mean of fewer', () => {
  const levels = Uint8Array.from([10, 100, 20, 200, 31, 0, 255, 8, 7, 1]);
  expect([...thinColumns(levels, 2, 2)]).toEqual([15, 150, 143, 4, 7, 1]);
  expect([...thinColumns(levels, 2, 4)]).toEqual([79, 77, 7, 1]);
  expect(thinColumns(levels, 2, 1)).toBe(levels);
});
