import { overCeiling } from './peak-steps.js';

test('places over a ceiling, each told once with its highest peak', () => {
  expect(overCeiling([-3, -0.5, -0.2, -4, -100, -0.9, -1], -1)).toEqual([
    { atSeconds: 0.5, dbtp: -0.2 },
    { atSeconds: 2.5, dbtp: -0.9 },
  ]);
  expect(overCeiling([], -1)).toEqual([]);
});
