import { takeNoiseProfile } from '../noise/profile.js';
import { conformance } from '../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, run, sine } from '../testing/signals.js';
import { Chain } from './chain.js';
import { parseChain } from './chain-spec.js';

const noiseProfile = takeNoiseProfile(kernels, [noise(-50, 1, 1), noise(-50, 1, 2)], RATE_HZ);
const context = { sampleRateHz: RATE_HZ, channels: 2, kernels, noiseProfile };
const full = parseChain({ treatments: [{ kind: 'high-pass' }, { kind: 'hum-notch' }, { kind: 'noise-reduction' }, { kind: 'gate' }] });

describe('conformance', () => conformance(() => new Chain(context, full), { stages: true }));

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

describe('times of the recording', () => {
  const pause = {
    kind: 'pauses',
    shortestMs: 100,
    afterWordMs: 0,
    beforeWordMs: 0,
    fadeMs: 5,
    reductionDb: 40,
    pauses: [{ startSeconds: 1, endSeconds: 1.5, state: 'treat' }],
  };
  const sound = [sine(3000, -20, 2), sine(3000, -20, 2)];
  const lowered = (out: readonly Float32Array[], from: number, to: number): number =>
    levelDb(sound[0]!, from * RATE_HZ, to * RATE_HZ) - levelDb(out[0]!, from * RATE_HZ, to * RATE_HZ);

  test('are those of what is heard, however late a stage before makes it', () => {
    const out = run(new Chain(context, parseChain({ treatments: [{ kind: 'noise-reduction', reductionDb: 0 }, pause] })), sound);
    expect(lowered(out, 1.01, 1.49)).toBeGreaterThan(39);
    for (const [from, to] of [
      [0.9, 0.995],
      [1.505, 1.6],
    ] as const)
      expect(Math.abs(lowered(out, from, to))).toBeLessThan(0.2);
  });

  test('follow a jump that is told, also behind a stage that is late', () => {
    const chain = new Chain(context, parseChain({ treatments: [{ kind: 'noise-reduction', reductionDb: 0 }, pause] }));
    const out = [new Float32Array(48_000), new Float32Array(48_000)];
    // The recording from 0.75 s on, told block by block.
    for (let at = 0; at < 48_000; at += 128) {
      chain.locateStages((ago) => 36_000 + at - ago);
      chain.process(
        sound.map((s) => s.subarray(at, at + 128)),
        out.map((s) => s.subarray(at, at + 128)),
        128,
      );
    }
    const late = chain.latencyFrames;
    const level = (from: number, to: number): number =>
      levelDb(out[0]!, Math.round(from * RATE_HZ) - 36_000 + late, Math.round(to * RATE_HZ) - 36_000 + late);
    expect(level(1.1, 1.4) - level(0.9, 0.99)).toBeLessThan(-39);
    expect(Math.abs(level(1.55, 1.65) - level(0.9, 0.99))).toBeLessThan(0.3);
  });
});
