// The yardsticks of the noise bench: measures and textbook methods against what can be worked out by hand, and the
// gradients of the speech model's trainer against differences.
import { spawnSync } from 'node:child_process';
import { statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { estoi, powerKurtosis, resampled, segmentalSnr, siSdr } from './measures.mjs';
import { Network } from './train/network.mjs';
import { apply, ideal, methods, powers, profileOf } from './textbook.mjs';

// The scripts find their root by import.meta, which these tests do not have.
jest.mock('../scripts/lib/system.mjs', () => ({ root: process.cwd(), stateFolder: `${tmpdir()}/euphonos-bench-test` }));

const RATE_HZ = 24000;
const SIZE = 1024;
/** Uniform numbers from -1 to 1, always the same. */
function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 31 - 1;
  };
}
const gauss = (seed: number, seconds: number, level = 0.1): Float32Array => {
  const next = numbers(seed);
  return Float32Array.from({ length: seconds * RATE_HZ }, () => level * (next() + next() + next() + next()) * 0.866);
};
/** Syllables: noise in bands that come and go. */
const syllables = (seconds: number): Float32Array =>
  gauss(5, seconds).map(
    (x, n) => x * Math.max(0, Math.sin((2 * Math.PI * 3.1 * n) / RATE_HZ)) * (1 + Math.sin((2 * Math.PI * 700 * n) / RATE_HZ)),
  );
const mixed = (a: Float32Array, b: Float32Array, gain = 1): Float32Array => a.map((x, n) => x + gain * b[n]!);
const meanSquare = (x: Float32Array): number => x.reduce((sum, v) => sum + v * v, 0) / x.length;

describe('measures', () => {
  test('SI-SDR: 10 dB for a rest of a tenth of the power that goes with nothing, whatever the level', () => {
    const clean = gauss(1, 2);
    const rest = gauss(2, 2, 0.1 * 10 ** -0.5);
    expect(siSdr(clean, mixed(clean, rest))).toBeCloseTo(10 * Math.log10(meanSquare(clean) / meanSquare(rest)), 1);
    expect(
      siSdr(
        clean,
        mixed(clean, rest).map((x) => 7 * x),
      ),
    ).toBeCloseTo(siSdr(clean, mixed(clean, rest)), 6);
  });

  test('ESTOI: 1 for the sound itself at any level, near 0 for a noise that has nothing of it, falling with the noise', () => {
    const clean = syllables(4);
    expect(
      estoi(
        clean,
        clean.map((x) => 0.3 * x),
        RATE_HZ,
      ),
    ).toBeCloseTo(1, 3);
    const noisy = [0.05, 0.2, 1].map((gain) => estoi(clean, mixed(clean, gauss(9, 4), gain), RATE_HZ));
    expect(noisy[0]).toBeGreaterThan(noisy[1]!);
    expect(noisy[1]).toBeGreaterThan(noisy[2]!);
    expect(Math.abs(estoi(clean, gauss(9, 4), RATE_HZ))).toBeLessThan(0.15);
  });

  test('segmental SNR: its upper limit of 35 dB for the sound itself, 6 dB where every amplitude is halved', () => {
    const clean = syllables(2);
    expect(segmentalSnr(clean, clean, RATE_HZ)).toBeCloseTo(35, 3);
    expect(
      segmentalSnr(
        clean,
        clean.map((x) => x / 2),
        RATE_HZ,
      ),
    ).toBeCloseTo(20 * Math.log10(2), 1);
  });

  test('kurtosis of the powers of Gaussian noise: 4! / (2!)² = 6, that of an exponential distribution', () => {
    expect(powerKurtosis(gauss(3, 20), RATE_HZ)).toBeGreaterThan(5);
    expect(powerKurtosis(gauss(3, 20), RATE_HZ)).toBeLessThan(6.6);
  });

  test('a tone that is resampled stays what it was; one above the new band is gone', () => {
    const tone = (hz: number, rate: number) => Float32Array.from({ length: rate }, (_, n) => Math.sin((2 * Math.PI * hz * n) / rate));
    const heard = resampled(tone(1000, RATE_HZ), RATE_HZ, 10000);
    const wanted = tone(1000, 10000);
    for (let n = 500; n < 9500; n++) expect(Math.abs(heard[n]! - wanted[n]!)).toBeLessThan(0.005);
    expect(Math.sqrt(meanSquare(resampled(tone(7000, RATE_HZ), RATE_HZ, 10000).subarray(500, 9500)))).toBeLessThan(1e-3);
  });
});

describe('textbook methods', () => {
  const noise = gauss(11, 3);
  const profile = profileOf(noise.subarray(0, RATE_HZ), SIZE);
  const flat = (power: number): Float64Array[] =>
    Array.from({ length: 40 }, () => profile.mean.map((m: number) => m * power) as Float64Array);
  const last = (method: string, power: number): number => {
    const gains = methods[method](flat(power), profile.mean, profile);
    return gains[gains.length - 1]![100]!;
  };

  test('gains of 1 give the sound back, through windows and overlap', () => {
    const sound = syllables(1);
    const out = apply(
      sound,
      powers(sound, SIZE).map((p: Float64Array) => p.map(() => 1)),
      SIZE,
    );
    for (let n = SIZE; n < sound.length - SIZE; n++) expect(Math.abs(out[n]! - sound[n]!)).toBeLessThan(1e-5);
  });

  test('Berouti at 10 dB: 2.5 times the noise subtracted from ten times it; at 0 dB all but the floor of 0.02', () => {
    expect(last('Berouti 1979', 10)).toBeCloseTo(Math.sqrt((10 - 2.5) / 10), 2);
    expect(last('Berouti 1979', 1)).toBeCloseTo(Math.sqrt(0.02), 2);
  });

  test('the decision-directed rules settle where their equations say', () => {
    // Wiener: ξ = 0.98 G² γ + 0.02 (γ - 1), G = ξ / (1 + ξ), iterated from nothing for γ = 10.
    let g = 0;
    for (let i = 0; i < 40; i++) {
      const prior = Math.max(10 ** -2.5, 0.98 * g * g * 10 + 0.02 * 9);
      g = prior / (1 + prior);
    }
    expect(last('Wiener, decision-directed', 10)).toBeCloseTo(g, 6);
    expect(last('log-MMSE 1985', 10)).toBeGreaterThan(g);
  });

  test('the ideal gain is S / (S + N)', () => {
    const [one] = ideal([Float64Array.from([3])], [Float64Array.from([1])]);
    expect(one![0]).toBeCloseTo(0.75, 10);
  });
});

test('gradients of the speech model are those of differences', () => {
  const next = numbers(77);
  const network = new Network({ inputs: 8, hidden: 16, outputs: 8, batch: 4, steps: 5 }, next);
  for (let i = 0; i < network.x.length; i++) network.x[i] = next();
  const wanted = Float32Array.from(network.y, () => (next() + 1) / 2);
  // Cross entropy: its derivative before the sigmoid is output less target.
  const loss = (): number => {
    network.forward();
    return network.y.reduce((sum: number, y: number, i: number) => sum - wanted[i]! * Math.log(y) - (1 - wanted[i]!) * Math.log(1 - y), 0);
  };
  loss();
  network.y.forEach((y: number, i: number) => (network.dy[i] = y - wanted[i]!));
  network.backward();
  for (const [name, index] of [
    ['first', 17],
    ['firstBias', 3],
    ['into', 100],
    ['again', 333],
    ['againBias', 40],
    ['intoBias', 7],
    ['last', 55],
    ['lastBias', 2],
  ] as const) {
    const gradient = network.g[name][index];
    const kept = network.w[name][index];
    network.w[name][index] = kept + 0.01;
    const up = loss();
    network.w[name][index] = kept - 0.01;
    const down = loss();
    network.w[name][index] = kept;
    expect(Math.abs((up - down) / 0.02 - gradient)).toBeLessThan(0.02 + 0.02 * Math.abs(gradient));
  }
});

const PYTHON = '/usr/bin/python3';
const hasTorch = spawnSync(PYTHON, ['-c', 'import torch']).status === 0;
if (!hasTorch) console.log('The trainer of the gain network was not run: python3-torch is not installed here. Nothing else needs it.');
(hasTorch ? test : test.skip)(
  'three steps of training: the loss is a number, and the weights are as many as the kernels read',
  () => {
    const out = join(tmpdir(), 'euphonos-gain-network.bin');
    const { status, stdout, stderr } = spawnSync(PYTHON, [join(process.cwd(), 'bench/train/train.py'), '--quick', '--out', out], {
      encoding: 'utf8',
    });
    expect([status, stderr]).toEqual([0, '']);
    expect(stdout).toMatch(/3 of 3: loss -?\d/);
    expect(statSync(out).size).toBe(statSync(join(process.cwd(), 'packages/dsp/kernels/gain-network.bin')).size);
  },
  120_000,
);
