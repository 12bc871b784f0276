import { LineTracker } from '../../hum/line-tracker.js';
import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sdrDb, sine, toneDb, voice } from '../../testing/signals.js';
import { humNotch } from '../hum-notch/hum-notch.js';
import { humLines } from './hum-lines.js';

const create = (over: object = {}, channels = 1) =>
  humLines.create({ sampleRateHz: RATE_HZ, channels, kernels }, { baseHz: 50, harmonics: 8, harmonicsOn: [], drift: 'still', ...over });
const clean = mixed(voice(12, 115), noise(-70, 12, 6));
/** Eight lines, 30 dB above a floor of -70 dBFS together; `hz` may move. */
const hum = (seconds: number, hz: (second: number) => number = () => 50): Float32Array => {
  let phase = 0;
  return Float32Array.from({ length: seconds * RATE_HZ }, (_, n) => {
    phase += (2 * Math.PI * hz(n / RATE_HZ)) / RATE_HZ;
    let sum = 0;
    for (let h = 1; h <= 8; h++) sum += Math.sin(h * phase + h) / h;
    return 0.0115 * sum;
  });
};
const heard = mixed(clean, hum(12));
const SETTLED = 5 * RATE_HZ;

describe('conformance', () => conformance(() => create({}, 2)));

test('eight lines 30 dB above the floor go below it; speech differs by less than -25 dB', () => {
  const out = run(create(), [heard])[0]!;
  expect(levelDb(hum(1))).toBeCloseTo(-40, 0);
  for (let h = 1; h <= 8; h++)
    expect(
      toneDb(
        out.map((x, n) => x - clean[n]!),
        50 * h,
        SETTLED,
      ),
    ).toBeLessThan(-70);
  expect(sdrDb(clean, out, SETTLED)).toBeGreaterThan(25);
});

test('costs the voice far less than notches of one hertz on the same lines', () => {
  const notched = run(
    humNotch.create(
      { sampleRateHz: RATE_HZ, channels: 1, kernels },
      { baseHz: 50, harmonics: 8, widthHz: 1, harmonicsOn: [], drift: 'fixed' },
    ),
    [heard],
  )[0]!;
  expect(sdrDb(clean, run(create(), [heard])[0]!, SETTLED)).toBeGreaterThan(sdrDb(clean, notched, SETTLED) + 10);
});

test('follows mains that drift by a tenth of a hertz in ten seconds', () => {
  const drifting = mixed(
    noise(-70, 20, 3),
    hum(20, (second) => 50 + 0.01 * second),
  );
  expect(levelDb(run(create({ drift: 'follow' }), [drifting])[0]!, 12 * RATE_HZ)).toBeLessThan(-60);
  const tracker = new LineTracker(RATE_HZ, 50, [1, 2, 3, 4], true);
  for (let n = 0; n + tracker.blockFrames <= drifting.length; n += tracker.blockFrames)
    tracker.take(drifting.slice(n, n + tracker.blockFrames), false);
  expect(tracker.baseHz).toBeGreaterThan(50.13);
  expect(tracker.baseHz).toBeLessThan(50.22);
});

test('only the harmonics that are listed are taken', () => {
  const out = run(create({ harmonicsOn: [1, 3] }), [mixed(hum(6), noise(-80, 6, 1))])[0]!;
  expect(toneDb(out, 150, 3 * RATE_HZ)).toBeLessThan(-80);
  expect(toneDb(out, 100, 3 * RATE_HZ)).toBeGreaterThan(-46);
});

test('noise and talk without a hum stay as they are', () => {
  expect(sdrDb(clean, run(create(), [clean])[0]!, SETTLED)).toBeGreaterThan(40);
});

test('notches follow a drift too, and those not listed are left out', () => {
  const notches = (over: object) =>
    humNotch.create(
      { sampleRateHz: RATE_HZ, channels: 1, kernels },
      { baseHz: 50, harmonics: 4, widthHz: 1, harmonicsOn: [], drift: 'follow', ...over },
    );
  const drifting = mixed(sine(50.3, -30, 12), sine(100.6, -36, 12));
  const noisy = mixed(drifting, noise(-75, 12, 2));
  expect(toneDb(run(notches({}), [noisy])[0]!, 50.3, 8 * RATE_HZ)).toBeLessThan(
    toneDb(run(notches({ drift: 'fixed' }), [noisy])[0]!, 50.3, 8 * RATE_HZ) - 10,
  );
  expect(toneDb(run(notches({ harmonicsOn: [2], drift: 'fixed', baseHz: 50.3 }), [noisy])[0]!, 50.3, 8 * RATE_HZ)).toBeCloseTo(-30, 0);
});
