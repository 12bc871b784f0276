import { exponentialIntegral } from './exponential-integral.js';

// Abramowitz & Stegun, Handbook of Mathematical Functions, table 5.1 (E1 for 0.5 … 2) and table 5.2 / 5.3
// (x e^x E1 for larger x), values from memory of the printed tables.
test.each([
  [0.5, 0.559773595],
  [1.0, 0.219383934],
  [1.5, 0.100019582],
  [2.0, 0.048900511],
])('E1(%f) is %f', (x, value) => {
  expect(exponentialIntegral(x)).toBeCloseTo(value, 9);
});

test('x e^x E1(x) at 10 is 0.915633339', () => {
  expect(10 * Math.exp(10) * exponentialIntegral(10)).toBeCloseTo(0.915633339, 9);
});

test('series and continued fraction meet, and 5.1.19 bounds hold', () => {
  expect(exponentialIntegral(1.5 + 1e-9)).toBeCloseTo(exponentialIntegral(1.5), 8);
  // A&S 5.1.19 with n = 1: 1/(x+1) < e^x E1(x) <= 1/x.
  for (let x = 0.01; x < 30; x *= 1.3) {
    const scaled = Math.exp(x) * exponentialIntegral(x);
    expect(scaled).toBeGreaterThan(1 / (x + 1));
    expect(scaled).toBeLessThanOrEqual(1 / x);
  }
});
