import fc from 'fast-check';
import { timeTicks } from './time-ticks.js';

test('round times, no closer than labels need, all of them in view', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0, max: 3600, noNaN: true }),
      fc.double({ min: 0.01, max: 86_400, noNaN: true }),
      fc.integer({ min: 300, max: 2000 }),
      (start, span, width) => {
        const { seconds } = timeTicks(start, start + span, width);
        for (const [i, tick] of seconds.entries()) {
          expect(tick).toBeGreaterThanOrEqual(start - 0.0006);
          expect(tick).toBeLessThanOrEqual(start + span + 0.0006);
          if (i > 0) expect(((tick - seconds[i - 1]!) / span) * width).toBeGreaterThanOrEqual(89);
        }
      },
    ),
  );
});

test('an hour in five-minute steps, a second in tenths, single milliseconds', () => {
  expect(timeTicks(0, 3600, 1200).seconds.slice(0, 3)).toEqual([0, 300, 600]);
  expect(timeTicks(12.05, 13.05, 1000)).toEqual({ seconds: [12.1, 12.2, 12.3, 12.4, 12.5, 12.6, 12.7, 12.8, 12.9, 13], digits: 1 });
  expect(timeTicks(1, 1.004, 500).digits).toBe(3);
  expect(timeTicks(0, 86_400, 842).seconds.slice(0, 3)).toEqual([0, 10_800, 21_600]);
});
