import { rulePlaces } from './rules.js';

const target = { integratedLufs: -16, ceilingDbtp: -1 };
const steady = (lufs: number, values = 50) => ({ shortTermLufs: new Float32Array(values).fill(lufs) });

test('peaks over the ceiling, each place told once with its highest', () => {
  expect(rulePlaces(steady(-16), [-3, -0.5, -0.25, -4, -100, -0.75, -1], target)).toEqual([
    { rule: 'peak', atSeconds: 0.5, seconds: 1, value: -0.25, limit: -1 },
    { rule: 'peak', atSeconds: 2.5, seconds: 0.5, value: -0.75, limit: -1 },
  ]);
  expect(rulePlaces(steady(-16), [], target)).toEqual([]);
});

test('what is louder than 5 LU over the target in three seconds, from where its windows begin', () => {
  const course = steady(-16);
  course.shortTermLufs.set([-10.5, -10, -10.5], 20);
  const [place, ...others] = rulePlaces(course, [-3, -0.5], { ...target, ceilingDbtp: 0 });
  expect(others).toEqual([]);
  expect(place).toMatchObject({ rule: 'loud', value: -10, limit: -11 });
  expect(place!.atSeconds).toBeCloseTo(2);
  expect(place!.seconds).toBeCloseTo(3.3);
});

test('in order of time; without a target for loudness only peaks count', () => {
  const course = steady(-8);
  expect(rulePlaces(course, [-3, -3, 0], target).map(({ rule }) => rule)).toEqual(['loud', 'peak']);
  expect(rulePlaces(course, [-3, -3, 0], { ...target, integratedLufs: null }).map(({ rule }) => rule)).toEqual(['peak']);
});
