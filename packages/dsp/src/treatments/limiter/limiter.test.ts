import type { TreatmentEvent } from '../../processor.js';
import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence, sine } from '../../testing/signals.js';
import { gainToDb } from '../../units.js';
import { defaultValues } from '../definition.js';
import { limiter } from './limiter.js';

type Values = Parameters<typeof limiter.create>[1];
const values = (part: Partial<Values> = {}) => ({ ...(defaultValues(limiter) as unknown as Values), ...part });
const create = (part: Partial<Values> = {}, channels = 1, onEvent?: (event: TreatmentEvent) => void) =>
  limiter.create({ sampleRateHz: RATE_HZ, channels, kernels, onEvent }, values(part));
const at = (seconds: number): number => Math.round(seconds * RATE_HZ);

/** The highest point of a sound at 16 × oversampling, dBFS, by a windowed sinc of its own: 64 samples on each side. */
function peakDb(sound: Float32Array): number {
  const REACH = 64;
  let peak = 0;
  for (const x of sound) peak = Math.max(peak, Math.abs(x));
  for (let phase = 1; phase < 16; phase++) {
    const taps = Float64Array.from({ length: 2 * REACH }, (_, i) => {
      const x = i - REACH + 1 - phase / 16;
      return (Math.sin(Math.PI * x) / (Math.PI * x)) * Math.cos((Math.PI * x) / (2 * REACH + 2)) ** 2;
    });
    for (let n = REACH; n + REACH < sound.length; n++) {
      // Only where something can be near the top.
      if (Math.abs(sound[n]!) < 0.5 * peak && Math.abs(sound[n + 1]!) < 0.5 * peak) continue;
      let sum = 0;
      for (let i = 0; i < 2 * REACH; i++) sum += taps[i]! * sound[n - REACH + 1 + i]!;
      peak = Math.max(peak, Math.abs(sum));
    }
  }
  return gainToDb(peak);
}

describe('conformance', () => conformance(() => create({ ceilingDbtp: -12, driveDb: 6 }, 2)));

/** Between two samples a tone of a quarter of the rate, at 45 degrees, is 3 dB higher than both. */
const between = (hz: number): Float32Array => sine(hz, 0, 0.3, 45);
const talk = joined(
  ...Array.from({ length: 8 }, (_, i) => mixed(sine(140 + 17 * i, -9, 0.12), sine(2700 + 90 * i, -12, 0.12), noise(-26, 0.12, i))),
);

test.each([
  ['noise', noise(-6, 0.5, 3)],
  ['bursts', joined(noise(-30, 0.1, 1), noise(-1, 0.02, 2), noise(-30, 0.1, 4), noise(-3, 0.05, 5), silence(0.1))],
  ['talk', talk],
  ['a quarter of the rate', between(RATE_HZ / 4)],
  ['0.37 of the rate', between(0.37 * RATE_HZ)],
  ['0.45 of the rate', between(0.45 * RATE_HZ)],
  [
    'a step',
    joined(
      silence(0.1),
      Float32Array.from({ length: 4000 }, () => 0.95),
      silence(0.1),
    ),
  ],
])('%s: never over the ceiling by more than 0.1 dB, at 16 × oversampling', (_, sound) => {
  for (const ceilingDbtp of [-1, -6]) {
    const out = run(create({ ceilingDbtp, driveDb: 6 }), [sound])[0]!;
    expect(peakDb(out)).toBeLessThan(ceilingDbtp + 0.1);
    expect(peakDb(out)).toBeGreaterThan(ceilingDbtp - 1.5);
  }
});

test('what stays under the ceiling is not touched', () => {
  const sound = noise(-30, 0.5, 7);
  expect(run(create(), [sound])[0]).toEqual(sound);
});

test('a single peak is let go at once; where peak follows peak the gain stays down longer, so that nothing pumps', () => {
  const tone = sine(200, -10, 2.5);
  const peaks = (times: readonly number[]): Float32Array => {
    const sound = tone.slice();
    for (const time of times) for (let n = 0; n < 480; n++) sound[at(time) + n]! += 1.6 * Math.sin((Math.PI * n) / 480);
    return sound;
  };
  const low = (sound: Float32Array, from: number): number =>
    levelDb(run(create(), [sound])[0]!, from, from + 2400) - levelDb(sound, from, from + 2400);
  const once = low(peaks([1.5]), at(1.62));
  const often = low(peaks(Array.from({ length: 26 }, (_, i) => 0.22 + i * 0.0512)), at(1.62));
  expect(once).toBeGreaterThan(-0.5);
  expect(often).toBeLessThan(once - 0.4);
});

test('it tells where and how much: one event a place', () => {
  const events: TreatmentEvent[] = [];
  const sound = sine(300, -20, 2);
  for (const [time, height] of [
    [0.5, 1.5],
    [1.4, 1.2],
  ] as const)
    for (let n = 0; n < 200; n++) sound[at(time) + n]! += height * Math.sin((Math.PI * n) / 200);
  run(
    create({ ceilingDbtp: -3 }, 1, (event) => events.push(event)),
    [joined(sound, silence(0.2))],
  );
  expect(events).toHaveLength(2);
  expect(events.map(({ startFrame }) => startFrame / RATE_HZ)).toEqual([expect.closeTo(0.497, 2), expect.closeTo(1.397, 2)]);
  expect(Math.abs(events[0]!.amountDb - gainToDb(1.6 / 10 ** (-3 / 20)))).toBeLessThan(1);
  expect(events[0]!.amountDb).toBeGreaterThan(events[1]!.amountDb);
});
