import { kernels, noise, sine } from '../testing/signals.js';
import { ArKernel } from './ar-kernel.js';

const ORDER = 10;
const WINDOW = 512;
const make = (order = ORDER) => new ArKernel(kernels, order, 2048, WINDOW, 400);
const fill = (ar: ArKernel, samples: Float32Array): void => void ar.strip.set(Float64Array.from(samples.subarray(0, 2048)));

/** Normal equations by Gaussian elimination: the naive reference of the Levinson recursion (autocorrelation method). */
function naiveModel(x: Float64Array, start: number, order: number): number[] {
  const windowed = Array.from({ length: WINDOW }, (_, n) => x[start + n]! * (0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / WINDOW)));
  const r = Array.from({ length: order + 1 }, (_, lag) => windowed.reduce((sum, v, n) => sum + (n >= lag ? v * windowed[n - lag]! : 0), 0));
  r[0] = r[0]! * (1 + 1e-9) + 1e-20;
  const rows = Array.from({ length: order }, (_, i) => [...Array.from({ length: order }, (_, j) => r[Math.abs(i - j)]!), -r[i + 1]!]);
  return [1, ...solved(rows)];
}

function solved(rows: number[][]): number[] {
  const n = rows.length;
  for (let i = 0; i < n; i++) {
    const pivot = rows.slice(i).reduce((best, row, k) => (Math.abs(row[i]!) > Math.abs(rows[best]![i]!) ? i + k : best), i);
    [rows[i], rows[pivot]] = [rows[pivot]!, rows[i]!];
    for (let k = i + 1; k < n; k++) {
      const factor = rows[k]![i]! / rows[i]![i]!;
      for (let j = i; j <= n; j++) rows[k]![j]! -= factor * rows[i]![j]!;
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--)
    x[i] = (rows[i]![n]! - x.slice(i + 1).reduce((sum, v, k) => sum + v * rows[i]![i + 1 + k]!, 0)) / rows[i]![i]!;
  return x;
}

test('the model is that of the normal equations', () => {
  const ar = make();
  fill(
    ar,
    noise(-20, 0.1, 3).map((x, n) => x + 0.1 * Math.sin(n / 7)),
  );
  ar.model(300, 2);
  naiveModel(ar.strip, 300, ORDER).forEach((a, i) => expect(ar.models[2 * (ORDER + 1) + i]).toBeCloseTo(a, 6));
});

test('the residual is the filter of the definition', () => {
  const ar = make();
  fill(ar, noise(-20, 0.1, 4));
  ar.model(100, 0);
  ar.residual(600, 701, 0);
  for (let n = 600; n < 701; n++) {
    let e = 0;
    for (let i = 0; i <= ORDER; i++) e += ar.models[i]! * ar.strip[n - i]!;
    expect(ar.predictionError[n]).toBeCloseTo(e, 10);
  }
});

test('what is interpolated makes the sum of squared errors least, as the full equations do', () => {
  const ar = make();
  fill(
    ar,
    noise(-20, 0.1, 5).map((x, n) => x * 0.2 + 0.2 * Math.sin(n / 5)),
  );
  ar.model(700, 0);
  const a = Array.from(ar.models.subarray(0, ORDER + 1));
  const missing = [900, 901, 902, 905, 906, 930, 931, 960];
  ar.missing.set(missing);
  // Janssen, Veldhuis & Vries 1986: B x = -z with B[i][j] = b(|i - j|), every distance, not only those within the band.
  const b = (lag: number): number => (lag > ORDER ? 0 : a.reduce((sum, v, i) => sum + (i + lag <= ORDER ? v * a[i + lag]! : 0), 0));
  const rows = missing.map((at) => {
    let z = 0;
    for (let n = at - ORDER; n <= at + ORDER; n++) if (!missing.includes(n)) z += b(Math.abs(n - at)) * ar.strip[n]!;
    return [...missing.map((other) => b(Math.abs(at - other))), -z];
  });
  const expected = solved(rows);
  ar.interpolate(missing.length, 0);
  missing.forEach((at, i) => expect(ar.strip[at]).toBeCloseTo(expected[i]!, 6));
});

// A sine obeys x[n] = 2 cos(w) x[n-1] - x[n-2]: the two-term model that predicts it without error.
test('a millisecond missing of a tone comes back', () => {
  const ar = make(16);
  const tone = sine(440, -12, 0.1);
  fill(ar, tone);
  for (let n = 0; n < 48; n++) ar.missing[n] = 1000 + n;
  for (let n = 1000; n < 1048; n++) ar.strip[n] = 0;
  for (let round = 0; round < 4; round++) {
    ar.model(768, 0);
    ar.interpolate(48, 0);
  }
  for (let n = 1000; n < 1048; n++) expect(ar.strip[n]).toBeCloseTo(tone[n]!, 2);
});

test('a shorter order is that of a kernel made with it', () => {
  const sound = noise(-20, 0.1, 7);
  const [long, short] = [make(40), make(12)];
  for (const ar of [long, short]) fill(ar, sound);
  long.useOrder(12);
  for (const ar of [long, short]) {
    for (let n = 0; n < 30; n++) ar.missing[n] = 900 + n + (n > 14 ? 9 : 0);
    ar.model(700, 0);
    ar.interpolate(30, 0);
  }
  expect(long.strip).toEqual(short.strip);
});

test('what lies beyond a level is found with its side, and held beyond it and within the most', () => {
  const ar = make();
  ar.strip.set([0.1, 0.5, 0.7, -0.2, -0.4, -0.9], 100);
  const count = ar.findBeyond(100, 106, 0.5, 0.4);
  expect([...ar.missing.subarray(0, count)]).toEqual([101, 102, 104, 105]);
  expect([...ar.sides.subarray(0, count)]).toEqual([1, 1, -1, -1]);
  ar.strip.set([0, 2, 0.3, -0.5], 101);
  ar.holdBeyond(count, 0.5, 0.4, 3);
  [0.5, 1.5, -0.5, -0.9].forEach((x, i) => expect(ar.strip[ar.missing[i]!]).toBeCloseTo(x, 12));
});

test('a hop goes in at the end of the strip, and out with its gain', () => {
  const ar = make();
  ar.incoming.set(Float32Array.from({ length: 256 }, (_, n) => n / 256));
  ar.take(256, 2048);
  ar.incoming.fill(0);
  ar.take(256, 2048);
  ar.send(256, 2048 - 512, 0.5);
  ar.outgoing.forEach((x, n) => expect(x).toBeCloseTo(n / 512, 7));
});
