import { conformance } from '../../testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, sine, toneDb, voice } from '../../testing/signals.js';
import { sibilance } from './sibilance.js';

const settings = { lowHz: 4500, highHz: 12000, thresholdDb: -10, reductionDb: 8, ratio: 4, releaseMs: 30 };
const create = (over: object = {}, channels = 1) =>
  sibilance.create({ sampleRateHz: RATE_HZ, channels, kernels }, { ...settings, ...over });
const talk = mixed(voice(5, 140), noise(-70, 5, 3));
/** A harsh s: a tone at 7 kHz stands for it, as loud as the voice, for 150 ms. */
const AT = 150_000;
const s = Float32Array.from({ length: talk.length }, (_, n) =>
  n < AT || n > AT + 7200 ? 0 : 0.15 * Math.sin((2 * Math.PI * 7000 * n) / RATE_HZ),
);
const heard = mixed(talk, s);

describe('conformance', () => conformance(() => create({}, 2)));

test('an s that is too loud is lowered by what was set, at most', () => {
  for (const reductionDb of [4, 8]) {
    const out = run(create({ reductionDb }), [heard])[0]!;
    const down = toneDb(heard, 7000, AT + 2400, AT + 6000) - toneDb(out, 7000, AT + 2400, AT + 6000);
    expect(down).toBeGreaterThan(reductionDb - 1);
    expect(down).toBeLessThan(reductionDb + 0.3);
  }
});

test('below its band nothing changes, and talk without an s stays', () => {
  const low = mixed(heard, sine(500, -26, 5));
  const out = run(create(), [low])[0]!;
  expect(toneDb(out, 500, AT, AT + 7200)).toBeCloseTo(toneDb(low, 500, AT, AT + 7200), 1);
  const plain = run(create(), [talk])[0]!;
  expect(levelDb(plain, 48_000, 140_000)).toBeCloseTo(levelDb(talk, 48_000, 140_000), 1);
});

test('a higher threshold lets it pass', () => {
  const out = run(create({ thresholdDb: 12 }), [heard])[0]!;
  expect(toneDb(out, 7000, AT + 2400, AT + 6000)).toBeCloseTo(toneDb(heard, 7000, AT + 2400, AT + 6000), 1);
});
