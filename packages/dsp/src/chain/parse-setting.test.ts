import { parseChain } from './chain-spec.js';

const parse = (treatment: object) => parseChain({ treatments: [treatment] }).treatments[0]!;

test('what is left out of a row takes its default', () => {
  expect(parse({ kind: 'tone', bands: [{ frequencyHz: 300 }] })['bands']).toEqual([{ shape: 'bell', frequencyHz: 300, gainDb: 0, q: 0.9 }]);
  expect(parse({ kind: 'spots', spots: [{ startSeconds: 1, endSeconds: 2 }] })['spots']).toEqual([
    { way: 'lower', startSeconds: 1, endSeconds: 2, lowHz: 0, highHz: 20000, reductionDb: 18 },
  ]);
  expect(parse({ kind: 'hum-notch' })).toMatchObject({ harmonicsOn: [], drift: 'fixed' });
});

test.each<[string, object, string, RegExp]>([
  [
    'a word that is none of them',
    { kind: 'channels', route: 'up' },
    'parameter-range',
    /route is one of as-it-is, first, second, sum, difference, swap; "up"/,
  ],
  ['a number for a word', { kind: 'channels', route: 1 }, 'parameter-range', /1 was given/],
  ['no list', { kind: 'tone', bands: {} }, 'parameter-type', /bands is a list/],
  ['too many rows', { kind: 'tone', bands: Array.from({ length: 17 }, () => ({})) }, 'parameter-range', /up to 16; 17/],
  ['a row that is no object', { kind: 'tone', bands: [7] }, 'parameter-type', /bands\[0\] is an object { shape, frequencyHz, gainDb, q }/],
  ['an unknown field', { kind: 'tone', bands: [{ hz: 7 }] }, 'parameter-unknown', /has no "hz"/],
  [
    'a field out of its range, with its row',
    { kind: 'tone', bands: [{}, { gainDb: 40 }] },
    'parameter-range',
    /bands\[1\]\.gainDb goes from -24 to 24 dB; 40/,
  ],
  ['an unknown shape', { kind: 'tone', bands: [{ shape: 'hill' }] }, 'parameter-range', /bands\[0\]\.shape is one of/],
  [
    'a broken rule within a row',
    { kind: 'spots', spots: [{ startSeconds: 2, endSeconds: 1 }] },
    'parameter-conflict',
    /spots\[0\]: startSeconds \(2\) must be before endSeconds \(1\)/,
  ],
  ['half a harmonic', { kind: 'hum-lines', harmonicsOn: [1.5] }, 'parameter-range', /whole numbers from 1 to 40; 1.5/],
  ['text among numbers', { kind: 'hum-lines', harmonicsOn: ['1'] }, 'parameter-type', /holds numbers, not "1"/],
  ['a band the wrong way round', { kind: 'sibilance', lowHz: 9000, highHz: 5000 }, 'parameter-conflict', /lowHz must be below highHz/],
])('%s is refused', (_, treatment, code, message) => {
  expect(() => parse(treatment)).toThrow(expect.objectContaining({ code, message: expect.stringMatching(message) as string }));
});
