import { takeNoiseProfile } from '../../noise/profile.js';
import { conformance } from '../../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { defaultValues } from '../definition.js';
import { noiseReduction, type NoiseReductionValues } from './noise-reduction.js';

function create(values: Partial<NoiseReductionValues>, profileOf: Float32Array[]) {
  const noiseProfile = takeNoiseProfile(kernels, profileOf, RATE_HZ);
  return noiseReduction.create(
    { sampleRateHz: RATE_HZ, channels: profileOf.length, kernels, noiseProfile },
    { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), ...values },
  );
}
const room = (): Float32Array => noise(-50, 2, 11);

describe('conformance', () => conformance(() => create({}, [room(), noise(-60, 2, 12)])));

test('perfect reconstruction: with no reduction the output is the input, latency taken off', () => {
  const sound = joined(noise(-20, 0.5, 1), sine(440, -6, 0.5));
  const out = run(create({ reductionDb: 0 }, [room()]), [sound])[0]!;
  for (let n = 0; n < sound.length; n++) expect(Math.abs(out[n]! - sound[n]!)).toBeLessThan(3e-6);
});

test.each([
  [6, 3],
  [12, 3],
  [20, 3],
  [30, 6],
])('steady noise falls by the reduction asked: %i dB at a threshold of %i dB', (reductionDb, thresholdDb) => {
  const more = noise(-50, 3, 13);
  const out = run(create({ reductionDb, thresholdDb }, [room()]), [more])[0]!;
  const takenDb = levelDb(more, 48000, 130000) - levelDb(out, 48000, 130000);
  expect(takenDb).toBeGreaterThan(reductionDb - 2);
  expect(takenDb).toBeLessThan(reductionDb + 0.5);
});

test('a voice-like tone 30 dB over the noise keeps its level within 0.3 dB', () => {
  const voice = joined(new Float32Array(24000), sine(220, -20, 1.5));
  const out = run(create({ reductionDb: 20 }, [room()]), [mixed(voice, noise(-50, 2, 14))])[0]!;
  expect(toneDb(out, 220, 40000, 88000)).toBeCloseTo(-20, 0);
  expect(Math.abs(toneDb(out, 220, 40000, 88000) + 20)).toBeLessThan(0.3);
});

test('little musical noise at the defaults: the residual is no more peaked than 1.6 × the noise', () => {
  const more = noise(-50, 4, 15);
  const out = run(create({ reductionDb: 20 }, [room()]), [more])[0]!;
  // Kurtosis ratio over frames of the power in narrow bands; 1 is unchanged (Uemura et al. 2008).
  const kurtosis = (samples: Float32Array): number => {
    const powers: number[] = [];
    for (let from = 48000; from + 1024 < 180000; from += 1024)
      for (const hz of [500, 1500, 3000, 6000]) powers.push(10 ** (toneDb(samples, hz, from, from + 1024) / 10));
    const m2 = powers.reduce((s, p) => s + p * p, 0) / powers.length;
    const m4 = powers.reduce((s, p) => s + p ** 4, 0) / powers.length;
    return m4 / m2 ** 2;
  };
  expect(kurtosis(out) / kurtosis(more)).toBeLessThan(1.6);
});

test('one profile a channel: the quiet channel is not treated by the loud one', () => {
  const out = run(create({ reductionDb: 20 }, [noise(-40, 2, 1), noise(-70, 2, 2)]), [noise(-40, 2, 3), noise(-55, 2, 4)]);
  expect(levelDb(out[0]!, 48000, 90000)).toBeLessThan(-58);
  // 15 dB over its own profile it is no noise that is known; by the loud one's it would be lowered by all of 20 dB.
  expect(levelDb(out[1]!, 48000, 90000)).toBeGreaterThan(-60);
});

test('without a profile it says what to do', () => {
  expect(() =>
    noiseReduction.create(
      { sampleRateHz: RATE_HZ, channels: 1, kernels },
      defaultValues(noiseReduction) as unknown as NoiseReductionValues,
    ),
  ).toThrow(/noise alone/);
});

const taken = (heard: Float32Array, out: Float32Array, from: number, to: number): number =>
  levelDb(heard, from * RATE_HZ, to * RATE_HZ) - levelDb(out, from * RATE_HZ, to * RATE_HZ);

describe('how the noise is known', () => {
  test('a profile that stands misses noise that has risen by 11 dB; one that follows finds it within 3 s', () => {
    const heard = joined(noise(-50, 1, 21), noise(-39, 5, 22));
    const stands = run(create({ reductionDb: 20, mode: 'fixed' }, [room()]), [heard])[0]!;
    const follows = run(create({ reductionDb: 20, mode: 'follow' }, [room()]), [heard])[0]!;
    expect(taken(heard, follows, 4, 5.8)).toBeGreaterThan(17.5);
    expect(taken(heard, follows, 4, 5.8)).toBeGreaterThan(taken(heard, stands, 4, 5.8) + 1);
  });

  test.each(['tracked', 'voice'])('%s needs no profile and takes steady noise after a second', (mode) => {
    const values = { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), reductionDb: 15, mode };
    const heard = noise(-50, 4, 23);
    const out = run(noiseReduction.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, values), [heard])[0]!;
    expect(taken(heard, out, 1, 3.5)).toBeGreaterThan(13);
  });

  test('a vowel held for two seconds is not learnt as noise', () => {
    const values = { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), reductionDb: 20, mode: 'tracked' };
    const held = joined(
      new Float32Array(RATE_HZ),
      Float32Array.from({ length: 2 * RATE_HZ }, (_, n) => {
        let x = 0;
        for (let h = 1; h <= 20; h++) x += Math.cos((2 * Math.PI * 140 * h * n) / RATE_HZ) / h;
        return 0.03 * x;
      }),
    );
    const heard = mixed(held, noise(-60, 3, 24));
    const out = run(noiseReduction.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, values), [heard])[0]!;
    expect(taken(heard, out, 2.5, 2.9)).toBeLessThan(1);
  });

  test('another way needs another processor; the other settings move in place', () => {
    const processor = create({}, [room()]);
    const values = defaultValues(noiseReduction) as unknown as NoiseReductionValues;
    expect(processor.setParameters({ ...values, mode: 'tracked' })).toBe(false);
    expect(processor.setParameters({ ...values, lowsDb: -6, curve: [{ frequencyHz: 500, offsetDb: 3 }] })).toBe(true);
  });
});

test('outside of the range nothing changes; within it the noise falls', () => {
  const more = noise(-50, 3, 25);
  const out = run(create({ reductionDb: 20, fromHz: 2000, toHz: 6000 }, [room()]), [more])[0]!;
  const change = (hz: number): number => {
    let before = 0;
    let after = 0;
    for (let from = 48000; from + 4800 < 130000; from += 4800) {
      before += 10 ** (toneDb(more, hz, from, from + 4800) / 10);
      after += 10 ** (toneDb(out, hz, from, from + 4800) / 10);
    }
    return 10 * Math.log10(after / before);
  };
  for (const hz of [400, 1000, 9000]) expect(Math.abs(change(hz))).toBeLessThan(0.3);
  expect(change(3500)).toBeLessThan(-15);
});

test.each([8000, 16000, 44100, 96000, 192000])('at %d Hz steady noise falls as asked, and what is not touched stays', (sampleRateHz) => {
  const frames = Math.round(2.5 * sampleRateHz);
  const seconds = frames / RATE_HZ;
  const profileOf = noise(-50, seconds, 31).subarray(0, frames);
  const noiseProfile = takeNoiseProfile(kernels, [profileOf], sampleRateHz);
  const make = (over: object) =>
    noiseReduction.create(
      { sampleRateHz, channels: 1, kernels, noiseProfile },
      { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), ...over },
    );
  const more = noise(-50, seconds, 32).subarray(0, frames);
  const out = run(make({ reductionDb: 12 }), [more])[0]!;
  const from = Math.round(frames / 3);
  expect(levelDb(more, from, frames - 8192) - levelDb(out, from, frames - 8192)).toBeGreaterThan(10);
  const same = run(make({ reductionDb: 0 }), [more])[0]!;
  expect(same.findIndex((x, n) => Math.abs(x - more[n]!) > 3e-6)).toBe(-1);
});

describe('silence and what follows', () => {
  const values = { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), reductionDb: 15, mode: 'tracked' };
  const tracked = () => noiseReduction.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, values);

  test('digital silence before a recording, or a hole in it, is not learnt as noise', () => {
    const heard = joined(new Float32Array(RATE_HZ), noise(-50, 2, 41), new Float32Array(2 * RATE_HZ), noise(-50, 2, 42));
    const out = run(tracked(), [heard])[0]!;
    expect(taken(heard, out, 2, 2.9)).toBeGreaterThan(13);
    expect(taken(heard, out, 5.3, 6.8)).toBeGreaterThan(13);
    expect(levelDb(out, 3.2 * RATE_HZ, 4.8 * RATE_HZ)).toBeLessThan(-150);
  });

  test('noise that rises by 6 dB is followed within two seconds', () => {
    const heard = joined(noise(-56, 2, 43), noise(-50, 4, 44));
    expect(taken(heard, run(tracked(), [heard])[0]!, 4.2, 5.8)).toBeGreaterThan(12);
  });
});

test('by itself there is one control: the others count for nothing', () => {
  const heard = joined(noise(-50, 1.5, 45), sine(300, -20, 0.5));
  const values = { ...(defaultValues(noiseReduction) as unknown as NoiseReductionValues), reductionDb: 15, mode: 'voice' };
  const make = (over: object) =>
    run(noiseReduction.create({ sampleRateHz: RATE_HZ, channels: 1, kernels }, { ...values, ...over }), [heard])[0]!;
  expect(
    make({
      thresholdDb: 12,
      smoothingHz: 400,
      closingMs: 300,
      lowsDb: -20,
      fromHz: 4000,
      tonalPercent: 0,
      curve: [{ frequencyHz: 500, offsetDb: -20 }],
    }),
  ).toEqual(make({}));
  expect(make({ reductionDb: 6 })).not.toEqual(make({}));
  expect(noiseReduction.idleSettings!(values)).not.toContain('reductionDb');
  expect(noiseReduction.idleSettings!({ ...values, mode: 'fixed' })).toEqual([]);
});

test('tones of the noise sink to what is around them when none is to stay', () => {
  const hummed = (seed: number): Float32Array => mixed(noise(-50, 3, seed), sine(1000, -40, 3));
  const left = (tonalPercent: number): number =>
    toneDb(run(create({ reductionDb: 10, tonalPercent }, [hummed(51)]), [hummed(52)])[0]!, 1000, 48_000, 130_000);
  expect(left(100)).toBeGreaterThan(-51.5);
  expect(left(0)).toBeLessThan(left(100) - 15);
});
