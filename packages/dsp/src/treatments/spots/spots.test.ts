import { Cascade } from '../../filters/cascade.js';
import { highPassSection, lowPassSection } from '../../filters/sections.js';
import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { spots } from './spots.js';

const create = (list: readonly object[], channels = 1, startFrame = 0) =>
  spots.create({ sampleRateHz: RATE_HZ, channels, kernels, startFrame }, { spots: list });
const spot = { way: 'lower', startSeconds: 1, endSeconds: 1.5, lowHz: 900, highHz: 1100, reductionDb: 20 };
const floor = noise(-50, 3, 4);
/** A ring tone at 1 kHz from 1.0 to 1.5 s, over noise. */
const ring = Float32Array.from(sine(1000, -20, 3), (x, n) => (n < RATE_HZ || n >= 1.5 * RATE_HZ ? 0 : x));
const heard = mixed(floor, ring);

describe('conformance', () =>
  conformance(() =>
    create(
      [
        { ...spot, startSeconds: 0.05, endSeconds: 0.2 },
        { ...spot, way: 'replace', startSeconds: 0.1, endSeconds: 0.16, lowHz: 3000, highHz: 5000 },
        { ...spot, way: 'noise', startSeconds: 0.12, endSeconds: 0.18, lowHz: 6000, highHz: 9000 },
      ],
      2,
    ),
  ));

test('lowered by the reduction inside, untouched before, after and beside', () => {
  const out = run(create([spot]), [heard])[0]!;
  expect(toneDb(out, 1000, 52_000, 68_000)).toBeCloseTo(-40, 0);
  const beside = mixed(heard, sine(3000, -30, 3));
  expect(toneDb(run(create([spot]), [beside])[0]!, 3000, 52_000, 68_000)).toBeCloseTo(-30, 1);
  for (const [from, to] of [
    [0, 44_000],
    [76_000, 140_000],
  ] as const)
    expect(
      levelDb(
        out.map((x, n) => x - heard[n]!),
        from,
        to,
      ),
    ).toBeLessThan(-120);
});

test('replaced: brought to the level of what is around it in time', () => {
  const out = run(create([{ ...spot, way: 'replace' }]), [heard])[0]!;
  expect(toneDb(heard, 1000, 52_000, 68_000)).toBeGreaterThan(-21);
  expect(toneDb(out, 1000, 52_000, 68_000)).toBeLessThan(toneDb(floor, 1000, 52_000, 68_000) + 12);
  expect(levelDb(out, 52_000, 68_000)).toBeCloseTo(levelDb(floor, 52_000, 68_000), 0);
});

describe('its own noise', () => {
  const box = { ...spot, way: 'noise', startSeconds: 0.5, endSeconds: 2.5, lowHz: 2000, highHz: 6000, reductionDb: 15 };
  const inBox = (sound: Float32Array): Float32Array => {
    const out = Float32Array.from(sound);
    const steep = [1, 2, 3, 4].flatMap(() => [highPassSection(3000, 0.7, RATE_HZ), lowPassSection(4000, 0.7, RATE_HZ)]);
    new Cascade(kernels, steep).process(out, 0, out.length);
    return out;
  };

  test('is lowered by the reduction in the box, and nothing beside or around it', () => {
    const out = run(create([box]), [floor])[0]!;
    expect(levelDb(inBox(out), 48_000, 96_000) - levelDb(inBox(floor), 48_000, 96_000)).toBeLessThan(-13);
    expect(
      levelDb(
        out.map((x, n) => x - floor[n]!),
        0,
        20_000,
      ),
    ).toBeLessThan(-120);
    expect(toneDb(run(create([box]), [mixed(floor, sine(1000, -60, 3))])[0]!, 1000, 48_000, 96_000)).toBeCloseTo(-60, 0);
  });

  test('what stands out of it stays: a tone that sounds for a moment in the box', () => {
    const ping = Float32Array.from(sine(3500, -34, 3), (x, n) => (n < 1.2 * RATE_HZ || n >= 1.5 * RATE_HZ ? 0 : x));
    const out = run(create([box]), [mixed(floor, ping)])[0]!;
    expect(toneDb(out, 3500, 60_000, 70_000)).toBeCloseTo(-34, 0);
    expect(levelDb(inBox(out), 84_000, 108_000) - levelDb(inBox(floor), 84_000, 108_000)).toBeLessThan(-12);
  });
});

test('times are those of the recording, wherever the stream starts', () => {
  const from = 20 * 1024;
  const late = run(create([spot], 1, from), [heard.subarray(from)])[0]!;
  const whole = run(create([spot]), [heard])[0]!;
  expect(
    levelDb(
      late.map((x, n) => x - whole[from + n]!),
      8192,
    ),
  ).toBeLessThan(-110);
});

test.each([
  [{ ...spot, endSeconds: 0.5 }, /before endSeconds/],
  [{ ...spot, endSeconds: 7 }, /up to 5 s/],
  [{ ...spot, lowHz: 2000 }, /below highHz/],
])('%o says what is wrong', (row, message) => {
  expect(spots.lists!['spots']!.conflict!(row)).toMatch(message);
});
