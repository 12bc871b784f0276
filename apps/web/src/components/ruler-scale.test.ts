import fc from 'fast-check';
import { readNumber, shareOf, ticksOf, valueAt, type RulerScale } from './ruler-scale.js';

const linear: RulerScale = { min: -90, max: 0, scale: 'linear' };
const log: RulerScale = { min: 20, max: 500, scale: 'log' };

test('the place of a value and the value at a place are each other’s inverse', () => {
  for (const range of [linear, log, { min: 0, max: 400, scale: 'log' } as const])
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (share) =>
        expect(shareOf(range, valueAt(range, share))).toBeCloseTo(share, 9),
      ),
    );
});

test('places outside of the ruler are its ends', () => {
  expect([valueAt(log, -1), valueAt(log, 2), shareOf(linear, -200), shareOf(linear, 50)]).toEqual([20, 500, 0, 1]);
});

test('an octave takes the same room everywhere on a logarithmic ruler', () => {
  const octave = shareOf(log, 40) - shareOf(log, 20);
  expect(shareOf(log, 400) - shareOf(log, 200)).toBeCloseTo(octave, 12);
});

test('ticks are round and inside', () => {
  expect(ticksOf(log)).toEqual([50, 100, 200]);
  expect(ticksOf(linear)).toEqual([-80, -60, -40, -20]);
  expect(ticksOf({ min: 1, max: 16, scale: 'linear' })).toEqual([5, 10, 15]);
});

test.each([
  ['12', 12],
  ['12.5 dB', 12.5],
  ['−3,5 dBFS', -3.5],
  ['+ 6', 6],
  ['-0.1', -0.1],
  ['about 80 Hz', 80],
  ['', null],
  ['loud', null],
])('%j is typed for %j', (text, value) => {
  expect(readNumber(text)).toBe(value);
});
