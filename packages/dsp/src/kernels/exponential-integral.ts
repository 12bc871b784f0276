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

const TABLE_LOW_OCTAVE = -20;
const TABLE_OCTAVES = 25;
const STEPS_PER_OCTAVE = 64;
let table: Float32Array | undefined;

/**
 * exp(E1(v) / 2), what the log-MMSE gain is over Wiener's (Ephraim & Malah 1985, eq. 20): from a table over the logarithm of v, to
 * about 1e-4; 1 from v = 32 on.
 */
export function halfExponentialGain(v: number): number {
  const values = (table ??= Float32Array.from({ length: TABLE_OCTAVES * STEPS_PER_OCTAVE + 2 }, (_, i) =>
    Math.exp(exponentialIntegral(2 ** (TABLE_LOW_OCTAVE + i / STEPS_PER_OCTAVE)) / 2),
  ));
  const place = (Math.log2(v + 1e-6) - TABLE_LOW_OCTAVE) * STEPS_PER_OCTAVE;
  if (place >= TABLE_OCTAVES * STEPS_PER_OCTAVE) return 1;
  const at = place | 0;
  return values[at]! + (place - at) * (values[at + 1]! - values[at]!);
}
