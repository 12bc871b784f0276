import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, silence } from '../../testing/signals.js';
import { room } from './room.js';

const settings = { decaySeconds: 0.8, reductionDb: 12, lateMs: 48 };
const create = (over: object = {}, channels = 1) => room.create({ sampleRateHz: RATE_HZ, channels, kernels }, { ...settings, ...over });
/** Noise that stops, with the tail of a room of 0.8 s: 60 dB down after that time. */
const STOP = 48_000;
const tail = Float32Array.from(noise(-20, 1.5, 7), (x, n) => x * 10 ** ((-3 * n) / (0.8 * RATE_HZ)));
const heard = joined(noise(-20, 1, 6), tail);

describe('conformance', () => conformance(() => create({}, 2)));

// Lebart, Boucher & Denbigh 2001, eq. 10: after the stop, what is heard is what was T_l before, less 60 T_l / T dB.
test('a decaying tail is lowered by nearly the reduction, and no more', () => {
  const out = run(create(), [heard])[0]!;
  const down = levelDb(heard, STOP + 9600, STOP + 24_000) - levelDb(out, STOP + 9600, STOP + 24_000);
  expect(down).toBeGreaterThan(9);
  expect(down).toBeLessThan(12.3);
});

test('an onset passes whole: what comes first is not late', () => {
  const onset = mixed(joined(silence(1), noise(-20, 0.1, 3), silence(1)), noise(-90, 2.1, 2));
  const out = run(create(), [onset])[0]!;
  expect(levelDb(onset, 48_000, 49_900) - levelDb(out, 48_000, 49_900)).toBeLessThan(1);
});

test('without reduction every sample stays, and a shorter decay takes less', () => {
  const same = run(create({ reductionDb: 0 }), [heard])[0]!;
  for (let n = 0; n < heard.length; n += 101) expect(same[n]).toBeCloseTo(heard[n]!, 5);
  const level = (decaySeconds: number): number => levelDb(run(create({ decaySeconds }), [heard])[0]!, STOP + 4800, STOP + 14_400);
  expect(level(0.3)).toBeGreaterThan(level(1.5));
});
