import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { joined, kernels, noise, RATE_HZ, silence, voice } from '../../../dsp/src/testing/signals.js';
import { runThrough } from './run-through.js';
import { priceOf } from './price.js';

const talk = joined(silence(1), voice(2, 130));
const hiss = noise(-50, 3, 4);
const heard = talk.map((x, n) => x + hiss[n]!);
const context = { sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile: takeNoiseProfile(kernels, [noise(-50, 2, 1)], RATE_HZ) };
const chain = (...treatments: object[]) => parseChain({ treatments });

test('the first noise reduction that sounds is priced, under its id; without one, or without its profile, nothing is', () => {
  const price = priceOf(
    context,
    chain({ kind: 'noise-reduction', id: 'off', bypassed: true }, { kind: 'noise-reduction', id: 'on' }, { kind: 'gate' }),
    [heard],
    0,
  )!;
  expect(price.treatmentId).toBe('on');
  expect(price.points).toHaveLength(41);
  expect(priceOf(context, chain({ kind: 'gate' }), [heard], 0)).toBeNull();
  const { noiseProfile, ...without } = context;
  expect(noiseProfile.frameCount).toBeGreaterThan(0);
  expect(priceOf(without, chain({ kind: 'noise-reduction' }), [heard], 0)).toBeNull();
  expect(priceOf(without, chain({ kind: 'noise-reduction', mode: 'tracked', id: 't' }), [heard], 0)).toMatchObject({ treatmentId: 't' });
});

test('it is priced as it comes to it: through what stands before, to the last figure', () => {
  const cut = { kind: 'high-pass', cutoffHz: 400, slopeDbPerOctave: 48 };
  const treated = runThrough(context, chain(cut), [heard]);
  const through = priceOf(context, chain(cut, { kind: 'noise-reduction', id: 'n' }), [heard], 0);
  expect(through).toEqual(priceOf(context, chain({ kind: 'noise-reduction', id: 'n' }), treated, 0));
  expect(through).not.toEqual(priceOf(context, chain({ kind: 'noise-reduction', id: 'n' }), [heard], 0));
});
