import { takeNoiseProfile } from '../noise/profile.js';
import { conformance } from '../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, run, sine } from '../testing/signals.js';
import { Chain } from './chain.js';
import { parseChain } from './chain-spec.js';

const noiseProfile = takeNoiseProfile(kernels, [noise(-50, 1, 1), noise(-50, 1, 2)], RATE_HZ);
const context = { sampleRateHz: RATE_HZ, channels: 2, kernels, noiseProfile };
const full = parseChain({ treatments: [{ kind: 'high-pass' }, { kind: 'hum-notch' }, { kind: 'noise-reduction' }, { kind: 'gate' }] });

describe('conformance', () => conformance(() => new Chain(context, full)));

test('latency is the sum of its parts: one frame of 2048 with two hops of 512 ahead, and 20 ms of look-ahead', () => {
  expect(new Chain(context, full).latencyFrames).toBe(2048 + 2 * 512 + 960);
});

test('an empty chain and a bypassed one pass every bit', () => {
  const sound = [noise(-20, 0.1, 3), noise(-20, 0.1, 4)];
  const bypassed = { treatments: full.treatments.map((t) => ({ ...t, bypassed: true })) };
  expect(run(new Chain(context, { treatments: [] }), sound)).toEqual(sound);
  expect(run(new Chain(context, bypassed), sound)).toEqual(sound);
});

test('what needs a profile waits for one and the rest sounds', () => {
  const chain = new Chain({ sampleRateHz: RATE_HZ, channels: 1, kernels }, full);
  expect(levelDb(run(chain, [sine(20, -20, 1)])[0]!, 24000)).toBeLessThan(-60);
});

test('values move in place, structure asks for a new chain', () => {
  const chain = new Chain(context, full);
  const [hp, hum, nr, gate] = full.treatments;
  expect(chain.setParameters({ treatments: [{ ...hp!, cutoffHz: 120 }, hum!, { ...nr!, reductionDb: 20 }, gate!] })).toBe(true);
  expect(chain.setParameters({ treatments: [hum!, hp!, nr!, gate!] })).toBe(false);
  expect(chain.setParameters({ treatments: [hp!, hum!, nr!, { ...gate!, bypassed: true }] })).toBe(false);
});
