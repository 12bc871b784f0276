// Doubles in memory.

// @ts-ignore: decorator
@inline
export function at(base: usize, index: i32): usize {
  return base + (<usize>index << 3);
}

// @ts-ignore: decorator
@inline
export function lanes(v: v128): f64 {
  return f64x2.extract_lane(v, 0) + f64x2.extract_lane(v, 1);
}

/** Sum of p[n] q[n], n < count. */
// @ts-ignore: decorator
@inline
export function dot(p: usize, q: usize, count: i32): f64 {
  let a = f64x2.splat(0);
  let b = f64x2.splat(0);
  let n = 0;
  for (; n + 4 <= count; n += 4) {
    a = f64x2.add(a, f64x2.mul(v128.load(at(p, n)), v128.load(at(q, n))));
    b = f64x2.add(b, f64x2.mul(v128.load(at(p, n), 16), v128.load(at(q, n), 16)));
  }
  let sum = lanes(f64x2.add(a, b));
  for (; n < count; n++) sum += load<f64>(at(p, n)) * load<f64>(at(q, n));
  return sum;
}
