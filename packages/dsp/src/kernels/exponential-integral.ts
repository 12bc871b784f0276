const EULER_GAMMA = 0.5772156649015329;

/**
 * Exponential integral E1(x) = ∫ from x to ∞ of e^-t / t dt, for x > 0, to about 1e-13 relative.
 * Abramowitz & Stegun: series 5.1.11 up to 1.5, then the continued fraction 5.1.22 (modified Lentz).
 * Returns Infinity at 0.
 */
export function exponentialIntegral(x: number): number {
  if (x === 0) return Infinity;
  if (x <= 1.5) {
    let sum = -EULER_GAMMA - Math.log(x);
    let term = 1;
    for (let n = 1; n < 40; n++) {
      term *= -x / n;
      sum -= term / n;
    }
    return sum;
  }
  let b = x + 1;
  let c = 1e300;
  let d = 1 / b;
  let h = d;
  for (let n = 1; n < 200; n++) {
    const a = -n * n;
    b += 2;
    d = 1 / (a * d + b);
    c = b + a / c;
    h *= c * d;
    if (Math.abs(c * d - 1) < 1e-15) break;
  }
  return h * Math.exp(-x);
}
