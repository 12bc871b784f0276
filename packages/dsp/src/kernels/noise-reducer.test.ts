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

/** The share that makes the model say the same as the decision-directed rule: then only that rule counts. */
const shareOf = (prior: number): number => prior / (1 + prior);
const THRESHOLD = 1;

test('the kernel agrees with the plain rules over frames of rising level, the model saying what they say', () => {
  const size = 512;
  const kernel = new NoiseReducer(kernels, size, 48000 / size, false);
  const fft = new RealFft(kernels, size);
  const noisePower = size * 10 ** -4;
  kernel.noisePower.fill(noisePower);
  kernel.floors.fill(0.1);
  const bins = size / 2 + 1;
  let speech = new Float64Array(bins);
  for (let frame = 0; frame < 12; frame++) {
    fft.frame.set(noise(-46 + 3 * frame, size / 48000, frame + 1));
    fft.forward();
    kernel.binRe.set(fft.re);
    kernel.binIm.set(fft.im);
    const expected = new Float64Array(bins);
    const next = new Float64Array(bins);
    for (let k = 0; k < bins; k++) {
      const power = fft.re[k]! ** 2 + fft.im[k]! ** 2;
      const post = power / noisePower;
      const directed = Math.max(10 ** -2.5, 0.98 * (speech[k]! / noisePower) + 0.02 * Math.max(0, post - 1));
      kernel.share[k] = shareOf(directed);
      // Priors are taken at 1.28 where somebody talks: what the noise bench chose.
      const prior = 1.28 * directed;
      const g = Math.min(1, logMmseGain(prior, Math.max(post, 1e-12)));
      next[k] = g * g * power;
      expected[k] = Math.max(0.1, prior / (1 + prior));
    }
    speech = next;
    kernel.weighFrame(0.98, 10 ** -2.5, THRESHOLD, 0, 1, 1);
    for (let k = 0; k < bins; k++) expect(Math.abs(kernel.gain[k]! / expected[k]! - 1)).toBeLessThan(2e-3);
  }
});

test('smoothing over frequency is a moving average, cut at the edges', () => {
  const size = 256;
  const [plain, smooth] = [0, 3].map((reach) => {
    const kernel = new NoiseReducer(kernels, size, 48000 / size, false);
    kernel.noisePower.fill(size / 1e4);
    kernel.share.fill(0.5);
    kernel.floors.fill(0.01);
    const x = noise(-38, (2 * size) / 48000, 3);
    kernel.binRe.set(x.subarray(0, size / 2 + 1).map((v) => v * 40));
    kernel.weighFrame(0.98, 0.003, THRESHOLD, reach, 1, 1);
    return kernel;
  }) as [NoiseReducer, NoiseReducer];
  for (const k of [0, 2, 40, 126, 128]) {
    const near = Array.from(plain.gain.subarray(Math.max(0, k - 3), Math.min(129, k + 4)));
    expect(smooth.gain[k]).toBeCloseTo(near.reduce((sum, g) => sum + g, 0) / near.length, 5);
  }
});
