import { atLevel, noiseUnderBed } from './noise-under.js';

const RATE_HZ = 48_000;
const CENTRES = [63, 125, 250, 500, 1000, 2000, 4000, 8000];
const flat = (dbfs: number) => CENTRES.map((hz) => ({ hz, dbfs }));

test('noise alike in all bands lies as far under as its level says; two tracks have 3 dB more of it', () => {
  const one = noiseUnderBed([flat(-70)], flat(-50), RATE_HZ)!;
  expect(one.underLu).toBeCloseTo(20, 6);
  expect(one.heard).toEqual([]);
  expect(noiseUnderBed([flat(-70), flat(-70)], flat(-50), RATE_HZ)!.underLu).toBeCloseTo(16.99, 2);
});

test('where the bed has nothing it is heard; what nobody could hear is not told', () => {
  const dull = flat(-50).map(({ hz, dbfs }) => ({ hz, dbfs: hz > 3000 ? -90 : dbfs }));
  expect(noiseUnderBed([flat(-70)], dull, RATE_HZ)!.heard.map(({ hz }) => hz)).toEqual([4000, 8000]);
  expect(noiseUnderBed([flat(-90)], dull, RATE_HZ)!.heard).toEqual([]);
  expect(noiseUnderBed([flat(-52)], flat(-50), RATE_HZ)!.heard).toHaveLength(8);
});

// ITU-R BS.1770-5: the weighting at 997 Hz is about 0.7 dB, and raises what lies above by up to 4 dB; bass counts less.
test('hiss counts for more than rumble of the same level', () => {
  const only = (hz: number) => [{ hz, dbfs: -60 }];
  const under = (hz: number): number => noiseUnderBed([only(hz)], [{ hz: 1000, dbfs: -40 }], RATE_HZ)!.underLu;
  expect(under(8000)).toBeLessThan(under(1000) - 2);
  expect(under(63)).toBeGreaterThan(under(1000) + 1);
});

test('silence is told as nothing', () => {
  expect(noiseUnderBed([], flat(-50), RATE_HZ)).toBeNull();
  expect(noiseUnderBed([flat(-60)], atLevel(flat(0), -200), RATE_HZ)).toBeNull();
});
