import { parseChain } from '@euphonos/dsp';
import { joined, kernels, mixed, noise, RATE_HZ, silence, sine } from '../../../dsp/src/testing/signals.js';
import { dynamicsOf } from './dynamics.js';
import { measureEffects } from './effects.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const of = (treatment: object, sound: Float32Array) => measureEffects(context, parseChain({ treatments: [treatment] }), [sound], 0)[0]!;

test('most, typical, share and crest, against what is added everywhere', () => {
  const levels = {
    before: [1, 1, 1, 1],
    // +3, -3, +3 and +2.9 dB, of which 3 are make-up.
    after: [2, 0.5, 2, 1.95],
    peaksBefore: [4, 4, 4, 4],
    peaksAfter: [4, 4, 4, 2],
  };
  const seen = dynamicsOf(levels, new Set([0, 1, 2, 3]), 3);
  expect(seen.mostDownDb).toBeCloseTo(-6, 1);
  expect(seen.mostUpDb).toBeCloseTo(0.01, 1);
  expect(seen.typicalDb).toBeCloseTo(-6, 1);
  expect(seen.share).toBe(0.25);
  expect(seen.crestBeforeDb).toBeCloseTo(12.04, 1);
  expect(seen.crestAfterDb).toBeCloseTo(12.04 - 10 * Math.log10(6.45 / 4), 1);
  expect(dynamicsOf(levels, new Set(), 0)).toMatchObject({ mostDownDb: 0, mostUpDb: 0, typicalDb: 0, share: 0 });
});

test('a compressor tells how far it goes and what of the punch it costs; what is no such treatment tells nothing', () => {
  const sound = mixed(joined(silence(0.5), sine(300, -6, 1), silence(0.5), sine(300, -20, 1), silence(0.5)), noise(-70, 3.5, 1));
  const { dynamics } = of({ kind: 'compressor', thresholdDb: -20, ratio: 4, kneeDb: 0, makeUpDb: 6 }, sound);
  // 14 dB over the threshold, three quarters of which are taken: as the peak of a sine says.
  expect(dynamics!.mostDownDb).toBeCloseTo(-10.5, 0);
  expect(dynamics!.share).toBeCloseTo(0.5, 1);
  expect(dynamics!.crestAfterDb).toBeGreaterThan(0);
  expect(of({ kind: 'high-pass' }, sound).dynamics).toBeNull();
});

test('a limiter tells its places', () => {
  const sound = joined(sine(200, -20, 1), sine(200, -1, 0.2), sine(200, -20, 1));
  const { dynamics, events } = of({ kind: 'limiter', ceilingDbtp: -6 }, sound);
  expect(dynamics!.mostDownDb).toBeCloseTo(-5, 0);
  expect(events).toHaveLength(1);
  expect(events[0]!.startFrame / RATE_HZ).toBeCloseTo(1, 1);
  expect(events[0]!.amountDb).toBeCloseTo(5, 0);
});
