import { kernels, noise } from '../testing/signals.js';
import { RealFft } from './real-fft.js';

/** X[k] by the definition of the discrete Fourier transform. */
function directDft(x: Float32Array, k: number): [number, number] {
  let re = 0,
    im = 0;
  for (let n = 0; n < x.length; n++) {
    re += x[n]! * Math.cos((2 * Math.PI * k * n) / x.length);
    im -= x[n]! * Math.sin((2 * Math.PI * k * n) / x.length);
  }
  return [re, im];
}

test.each([64, 128, 256, 512, 1024, 2048, 4096, 8192])('size %i: direct DFT, Parseval, and back', (size) => {
  const fft = new RealFft(kernels, size);
  const x = noise(-6, size / 48000, size);
  fft.frame.set(x);
  fft.forward();
  const bins =
    size > 1024
      ? [0, 1, 2, 3, 4, 5, 7, 100, size / 4, size / 2 - 3, size / 2 - 1, size / 2]
      : Array.from({ length: size / 2 + 1 }, (_, k) => k);
  for (const k of bins) {
    const [re, im] = directDft(x, k);
    expect(fft.re[k]).toBeCloseTo(re, 3);
    expect(fft.im[k]).toBeCloseTo(im, 3);
  }
  // Parseval: the energy in the bins, the inner ones counted twice, is N times the energy in time.
  let energy = 0;
  for (let k = 0; k <= size / 2; k++) energy += (k % (size / 2) === 0 ? 1 : 2) * (fft.re[k]! ** 2 + fft.im[k]! ** 2);
  expect(energy / size / x.reduce((sum, v) => sum + v * v, 0)).toBeCloseTo(1, 5);
  fft.inverse();
  for (let n = 0; n < size; n++) expect(Math.abs(fft.frame[n]! - x[n]!)).toBeLessThan(2e-6);
});

test('refuses sizes that it cannot do', () => {
  for (const size of [0, 63, 100, 65536]) expect(() => new RealFft(kernels, size)).toThrow(/power of two/);
});
