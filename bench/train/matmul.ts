// C += A B in single precision for the training of the speech model: A is read through strides, so that one routine
// serves the forward pass, the errors and the gradients. Compiled by train.mjs; ships with nothing.

/** Adds to C[rows][columns] the product of A[i * aRow + k * aColumn] and B[k][columns]; addresses in bytes, columns a multiple of 8. */
export function multiplyAdd(c: usize, a: usize, b: usize, rows: i32, columns: i32, inner: i32, aRow: i32, aColumn: i32): void {
  const rowBytes = (<usize>columns) << 2;
  const step = (<usize>aColumn) << 2;
  const down = (<usize>aRow) << 2;
  let i = 0;
  for (; i + 4 <= rows; i += 4) {
    for (let j = 0; j < columns; j += 8) {
      const pc = c + <usize>i * rowBytes + ((<usize>j) << 2);
      let c00 = v128.load(pc),
        c01 = v128.load(pc, 16);
      const p1 = pc + rowBytes;
      let c10 = v128.load(p1),
        c11 = v128.load(p1, 16);
      const p2 = p1 + rowBytes;
      let c20 = v128.load(p2),
        c21 = v128.load(p2, 16);
      const p3 = p2 + rowBytes;
      let c30 = v128.load(p3),
        c31 = v128.load(p3, 16);
      let pb = b + ((<usize>j) << 2);
      let pa = a + <usize>i * down;
      for (let k = 0; k < inner; k++) {
        const b0 = v128.load(pb),
          b1 = v128.load(pb, 16);
        const a0 = v128.load32_splat(pa),
          a1 = v128.load32_splat(pa + down),
          a2 = v128.load32_splat(pa + 2 * down),
          a3 = v128.load32_splat(pa + 3 * down);
        c00 = f32x4.add(c00, f32x4.mul(a0, b0));
        c01 = f32x4.add(c01, f32x4.mul(a0, b1));
        c10 = f32x4.add(c10, f32x4.mul(a1, b0));
        c11 = f32x4.add(c11, f32x4.mul(a1, b1));
        c20 = f32x4.add(c20, f32x4.mul(a2, b0));
        c21 = f32x4.add(c21, f32x4.mul(a2, b1));
        c30 = f32x4.add(c30, f32x4.mul(a3, b0));
        c31 = f32x4.add(c31, f32x4.mul(a3, b1));
        pb += rowBytes;
        pa += step;
      }
      v128.store(pc, c00);
      v128.store(pc, c01, 16);
      v128.store(p1, c10);
      v128.store(p1, c11, 16);
      v128.store(p2, c20);
      v128.store(p2, c21, 16);
      v128.store(p3, c30);
      v128.store(p3, c31, 16);
    }
  }
}
