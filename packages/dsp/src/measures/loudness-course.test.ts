import fc from 'fast-check';
import { joined, kernels, RATE_HZ, sine } from '../testing/signals.js';
import { courseOf, courseWithin, integratedSoFar, rangeOf } from './loudness-course.js';
import { LoudnessMeter, lufsToPower, StepLoudness } from './loudness.js';

function metered(...parts: readonly Float32Array[]): LoudnessMeter {
  const meter = new LoudnessMeter(kernels, RATE_HZ, 2);
  const sound = joined(...parts);
  for (let from = 0; from < sound.length; from += 4800) {
    const part = sound.subarray(from, from + 4800);
    meter.process([part, part], part.length);
  }
  return meter;
}
const tone = (dbfs: number, seconds: number): Float32Array => sine(1000, dbfs, seconds);

test('integrated so far is, at every block, what a meter says that stops there', () => {
  fc.assert(
    fc.property(fc.array(fc.double({ min: -80, max: 0, noNaN: true }), { minLength: 60, maxLength: 400 }), (levels) => {
      const meter = new StepLoudness();
      const stopped: number[] = [];
      levels.forEach((lufs, i) => {
        meter.add(lufsToPower(lufs));
        if (i >= 19 && (i + 1) % 5 === 0) stopped.push(meter.integratedLufs ?? -Infinity);
      });
      const soFar = integratedSoFar(Float32Array.from(meter.momentaryHistoryLufs));
      expect(soFar).toHaveLength(stopped.length);
      stopped.forEach((lufs, i) => (lufs === -Infinity ? expect(soFar[i]).toBe(lufs) : expect(soFar[i]).toBeCloseTo(lufs, 3)));
    }),
    { numRuns: 60 },
  );
});

// EBU Tech 3341, table 1, cases 3 and 5: -23 LUFS in the end, ±0.1 LU; on the way what has sounded until then.
test.each([
  ['3', [-36, 10], [-23, 60], [-36, 10]],
  ['5', [-26, 20], [-20, 20.1], [-26, 20]],
] as const)('Tech 3341 case %s: integrated so far ends at -23 LUFS, and begins with the first tone', (_, ...steps) => {
  const meter = metered(...steps.map(([dbfs, seconds]) => tone(dbfs, seconds)));
  const soFar = integratedSoFar(courseOf(meter).momentaryLufs);
  expect(Math.abs(soFar[50]! - steps[0][0])).toBeLessThan(0.1);
  expect(Math.abs(soFar[soFar.length - 1]! + 23)).toBeLessThan(0.1);
});

test('a span of a course is what a meter says that hears that span alone', () => {
  const parts = [tone(-30, 5), tone(-20, 7.3), tone(-26, 6), tone(-40, 5)];
  const course = courseOf(metered(...parts));
  const [from, to] = [5.2, 18.3];
  const alone = metered(joined(...parts).slice(from * RATE_HZ, to * RATE_HZ));
  const within = courseWithin(course, from, to);
  const own = courseOf(alone);
  expect(within.momentaryLufs).toHaveLength(own.momentaryLufs.length);
  expect(within.shortTermLufs).toHaveLength(own.shortTermLufs.length);
  const soFar = integratedSoFar(within.momentaryLufs);
  expect(soFar[soFar.length - 1]).toBeCloseTo(alone.integratedLufs!, 1);
  expect(rangeOf(within)).toBeCloseTo(alone.loudnessRangeLu!, 1);
});

test('what is shorter than a window has no value, and silence has no loudness', () => {
  const course = courseOf(metered(tone(-20, 2)));
  expect(course.shortTermLufs).toHaveLength(0);
  expect(rangeOf(course)).toBeNull();
  expect(courseWithin(course, 1, 1.3).momentaryLufs).toHaveLength(0);
  expect(integratedSoFar(courseOf(metered(new Float32Array(RATE_HZ))).momentaryLufs).every((lufs) => lufs === -Infinity)).toBe(true);
});
