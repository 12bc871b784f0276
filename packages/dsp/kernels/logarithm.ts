// Logarithms of four values at once.

/** The logarithm to base two of four positive values; good to 1e-6: the exponent, and a series in (m - 1) / (m + 1). */
// @ts-ignore: decorator
@inline
export function log2(x: v128): v128 {
  const bits = i32x4.sub(x, i32x4.splat(0x3f3504f3));
  const exponent = f32x4.convert_i32x4_s(i32x4.shr_s(bits, 23));
  const m = i32x4.add(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f3504f3));
  const one = f32x4.splat(1);
  const t = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const t2 = f32x4.mul(t, t);
  let s = f32x4.add(f32x4.splat(<f32>(2.885390082 / 7)), f32x4.mul(t2, f32x4.splat(<f32>(2.885390082 / 9))));
  s = f32x4.add(f32x4.splat(<f32>(2.885390082 / 5)), f32x4.mul(t2, s));
  s = f32x4.add(f32x4.splat(<f32>(2.885390082 / 3)), f32x4.mul(t2, s));
  s = f32x4.add(f32x4.splat(<f32>2.885390082), f32x4.mul(t2, s));
  return f32x4.add(exponent, f32x4.mul(t, s));
}
