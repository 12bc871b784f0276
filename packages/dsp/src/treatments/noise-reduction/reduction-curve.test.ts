import { reductionCurveDb, tonesDb, type ReductionShape } from './reduction-curve.js';

const flat: ReductionShape = { reductionDb: 12, lowsDb: 0, highsDb: 0, fromHz: 20, toHz: 24000, points: [] };
const STEP_HZ = 25;
const at = (shape: Partial<ReductionShape>, hz: number): number => reductionCurveDb(STEP_HZ, 961, { ...flat, ...shape })[hz / STEP_HZ]!;

test('without a shape every frequency is lowered alike', () => {
  for (const hz of [25, 1000, 20000]) expect(at({}, hz)).toBe(12);
});

test('lows and highs: full an octave beyond, half at 300 Hz and 4 kHz, nothing in between', () => {
  const shape = { lowsDb: -6, highsDb: 8 };
  expect(at(shape, 150)).toBeCloseTo(6, 5);
  expect(at(shape, 300)).toBeCloseTo(9, 5);
  expect(at(shape, 1000)).toBeCloseTo(12, 5);
  expect(at(shape, 4000)).toBeCloseTo(16, 5);
  expect(at(shape, 8000)).toBeCloseTo(20, 5);
});

test('a range: untouched outside, in full inside, a third of an octave to its edge', () => {
  const shape = { fromHz: 500, toHz: 4000 };
  expect(at(shape, 375)).toBe(0);
  expect(at(shape, 5200)).toBe(0);
  for (const hz of [500, 1000, 4000]) expect(at(shape, hz)).toBeCloseTo(12, 5);
});

test('points: straight lines over octaves, back to none an octave beyond the ends, in any order, never below nothing', () => {
  const points = [
    { frequencyHz: 4000, offsetDb: -24 },
    { frequencyHz: 1000, offsetDb: 6 },
  ];
  expect(at({ points }, 1000)).toBeCloseTo(18, 5);
  for (const hz of [100, 500]) expect(at({ points }, hz)).toBeCloseTo(12, 5);
  expect(at({ points }, 2000)).toBeCloseTo(12 - 9, 5);
  expect(at({ points }, 4000)).toBe(0);
  expect(at({ points }, 16000)).toBeCloseTo(12, 5);
});

test('tones stand out of what is around them by what was put in: 20 dB; broad noise has none', () => {
  const noise = new Float32Array(1025).fill(1);
  expect(Math.max(...tonesDb(noise))).toBe(0);
  noise[100] = 100;
  noise[500] = 100;
  const tones = tonesDb(noise);
  expect(tones[100]).toBeCloseTo(20, 0);
  expect(tones[500]).toBeCloseTo(20, 0);
  expect([...tones].filter((db) => db > 0)).toHaveLength(2);
});
