import { kernels, noise } from '../testing/signals.js';
import { exponentialIntegral } from './exponential-integral.js';
import { NoiseReducer } from './noise-reducer.js';
import { RealFft } from './real-fft.js';

/** Gain of Ephraim & Malah 1985, eq. 20, from the a-priori SNR ξ and the a-posteriori SNR γ. */
function logMmseGain(prior: number, post: number): number {
  const v = (prior / (1 + prior)) * post;
  return (prior / (1 + prior)) * Math.exp(exponentialIntegral(v) / 2);
}

test('the gain of the paper at three points, worked out by hand with E1 of A&S table 5.1', () => {
  // ξ = 1, γ = 1: v = 0.5, E1 = 0.559773595 (table 5.1); ξ = 1, γ = 2: v = 1; ξ = 1, γ = 4: v = 2.
  expect(logMmseGain(1, 1)).toBeCloseTo(0.5 * Math.exp(0.559773595 / 2), 8);
  expect(logMmseGain(1, 2)).toBeCloseTo(0.5 * Math.exp(0.219383934 / 2), 8);
  expect(logMmseGain(1, 4)).toBeCloseTo(0.5 * Math.exp(0.048900511 / 2), 8);
});

/** One frame in plain TypeScript, step by step as in the papers. */
function naiveFrame(fft: RealFft, noisePower: number, speech: Float64Array, floor: number): { gain: Float64Array; speech: Float64Array } {
  const bins = fft.size / 2 + 1;
  const gain = new Float64Array(bins);
  const next = new Float64Array(bins);
  for (let k = 0; k < bins; k++) {
    const power = fft.re[k]! ** 2 + fft.im[k]! ** 2;
    const post = power / noisePower;
    const prior = Math.max(10 ** -2.5, 0.98 * (speech[k]! / noisePower) + 0.02 * Math.max(0, post - 1));
    const g = Math.min(1, logMmseGain(prior, Math.max(post, 1e-12)));
    next[k] = g * g * power;
    gain[k] = Math.max(floor, g);
  }
  return { gain, speech: next };
}

test('the kernel agrees with the plain version over frames of rising level', () => {
  const size = 512;
  const kernel = new NoiseReducer(kernels, size);
  const fft = new RealFft(kernels, size);
  kernel.window.fill(1);
  const noisePower = size * 10 ** -4;
  kernel.inverseNoise.fill(1 / noisePower);
  let speech: Float64Array = new Float64Array(size / 2 + 1);
  for (let frame = 0; frame < 12; frame++) {
    const x = noise(-46 + 3 * frame, size / 48000, frame + 1);
    fft.frame.set(x);
    fft.forward();
    const expected = naiveFrame(fft, noisePower, speech, 0.1);
    speech = expected.speech;
    kernel.frame.set(x);
    kernel.reduceFrame(0.98, 10 ** -2.5, 0.1, 0, 1, 1);
    for (let k = 0; k <= size / 2; k++) expect(Math.abs(kernel.gain[k]! / expected.gain[k]! - 1)).toBeLessThan(1e-3);
  }
});

test('smoothing over frequency is a moving average, cut at the edges', () => {
  const size = 256;
  const plain = new NoiseReducer(kernels, size);
  const smooth = new NoiseReducer(kernels, size);
  for (const kernel of [plain, smooth]) {
    kernel.window.fill(1);
    kernel.inverseNoise.fill(1e4 / size);
    kernel.frame.set(noise(-38, size / 48000, 3));
  }
  plain.reduceFrame(0.98, 0.003, 0.01, 0, 1, 1);
  smooth.reduceFrame(0.98, 0.003, 0.01, 3, 1, 1);
  for (const k of [0, 2, 40, 126, 128]) {
    const near = Array.from(plain.gain.subarray(Math.max(0, k - 3), Math.min(129, k + 4)));
    expect(smooth.gain[k]).toBeCloseTo(near.reduce((sum, g) => sum + g, 0) / near.length, 5);
  }
});
