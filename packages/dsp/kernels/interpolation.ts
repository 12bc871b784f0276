// Least-squares interpolation with the models of ./autoregressive: the normal equations are banded and solved in place.
import { missing, missingAt, models, modelsSetUp, order, strip } from './autoregressive';
import { at, dot } from './doubles';
import { allocate } from './memory';

/** Autocorrelation of a model's coefficients at the lags -order … order; `kept` is lag 0. */
let bothSides: usize = 0;
let kept: usize = 0;
/** Lower triangle times its diagonal, column by column: column j holds its elements j … j + order, and zeros after them. */
let columns: usize = 0;
/** Elements from a column to the next: room for the zeros that four columns at a time reach into. */
let stride: i32 = 0;
/** 1 / the diagonal. */
let inverse: usize = 0;
let right: usize = 0;
/** How many elements of each column, from the diagonal on, are not zero: Cholesky fills nothing beyond them. */
let height: usize = 0;

export function arSetUp(modelOrder: i32, length: i32, window_: i32, most: i32): void {
  modelsSetUp(modelOrder, length, window_, most);
  bothSides = allocate((2 * modelOrder + 1) << 3);
  stride = (modelOrder + 9) & ~1;
  columns = allocate((most * stride + 4) << 3);
  right = allocate((most + stride) << 3);
  height = allocate(most << 2);
  inverse = allocate((most + 4) << 3);
}

/** Replaces the `count` missing samples by those that make the sum of the squared prediction errors least. */
export function arInterpolate(count: i32, model: i32): void {
  const a = at(models, model * (order + 1));
  kept = bothSides + (<usize>order << 3);
  for (let lag = 0; lag <= order; lag++) {
    const value = dot(a, at(a, lag), order + 1 - lag);
    store<f64>(at(kept, lag), value);
    store<f64>(kept - (<usize>lag << 3), value);
  }
  for (let i = 0; i < count; i++) store<f64>(at(strip, load<i32>(missing + (<usize>i << 2))), 0);
  memory.fill(right, 0, <usize>(count + stride) << 3);
  for (let j = 0; j < count; j++) store<f64>(at(right, j), -dot(bothSides, at(strip, missingAt(j) - order), 2 * order + 1));
  solve(count);
  for (let i = 0; i < count; i++) store<f64>(at(strip, missingAt(i)), load<f64>(at(right, i)));
}

// @ts-ignore: decorator
@inline
function heightAt(index: i32): i32 {
  return load<i32>(height + (<usize>index << 2));
}

/** Solves for `right` within the band: A = L D Lᵀ, column by column, each made just before it is worked on. */
function solve(count: i32): void {
  for (let j = 0, first = 0, end = 0; j < count; j++) {
    const here = missingAt(j);
    while (end < count && missingAt(end) - here <= order) end++;
    const rows = end - j;
    store<i32>(height + (<usize>j << 2), rows);
    const column = at(columns, j * stride);
    fillColumn(column, j, rows, here);
    while (first + heightAt(first) <= j) first++;
    // Four of the columns before at a time: all of them as far as the last one goes, over the zeros at their end.
    let k = first;
    for (; k + 4 <= j; k += 4) takeFour(column, at(columns, k * stride + j - k), at(inverse, k), k + 3 + heightAt(k + 3) - j);
    for (; k < j; k++) {
      const past = at(columns, k * stride + j - k);
      subtract(column, past, load<f64>(past) * load<f64>(at(inverse, k)), k + heightAt(k) - j);
    }
    const inv = 1 / max(load<f64>(column), 1e-12);
    store<f64>(at(inverse, j), inv);
    const y = load<f64>(at(right, j));
    subtract(at(right, j), column, y * inv, rows);
    store<f64>(at(right, j), y);
  }
  for (let j = count - 1; j >= 0; j--) {
    const sum = load<f64>(at(right, j)) - dot(at(columns, j * stride + 1), at(right, j + 1), heightAt(j) - 1);
    store<f64>(at(right, j), sum * load<f64>(at(inverse, j)));
  }
}

/** Column j of the matrix: the autocorrelation at the distances of the missing samples from the one that is `here`. */
// @ts-ignore: decorator
@inline
function fillColumn(column: usize, j: i32, rows: i32, here: i32): void {
  const inOneRun = missingAt(j + rows - 1) - here == rows - 1;
  const copied = inOneRun ? (rows + 1) & ~1 : 0;
  for (let i = 0; i < copied; i += 2) v128.store(at(column, i), v128.load(at(kept, i)));
  for (let i = copied; i < stride; i += 2) v128.store(at(column, i), f64x2.splat(0));
  if (!inOneRun) for (let i = 0; i < rows; i++) store<f64>(at(column, i), load<f64>(at(kept, missingAt(j + i) - here)));
  else if (rows < copied) store<f64>(at(column, rows), 0);
  store<f64>(column, load<f64>(kept) * (1 + 1e-10));
}

// @ts-ignore: decorator
@inline
function subtract(from: usize, what: usize, factor: f64, rows: i32): void {
  const l = f64x2.splat(factor);
  for (let i = 0; i < rows; i += 2) v128.store(at(from, i), f64x2.sub(v128.load(at(from, i)), f64x2.mul(l, v128.load(at(what, i)))));
}

/** Takes out of a column what four columns before it, one after the other, have of it: `past` is this row of the first. */
// @ts-ignore: decorator
@inline
function takeFour(column: usize, past: usize, factors: usize, rows: i32): void {
  // One column on, the same row lies one element earlier.
  const next = <usize>(stride - 1) << 3;
  let p1 = past + next, p2 = p1 + next, p3 = p2 + next;
  const l0 = f64x2.splat(load<f64>(past) * load<f64>(factors)), l1 = f64x2.splat(load<f64>(p1) * load<f64>(factors, 8));
  const l2 = f64x2.splat(load<f64>(p2) * load<f64>(factors, 16)), l3 = f64x2.splat(load<f64>(p3) * load<f64>(factors, 24));
  for (const end = at(column, rows); column < end; column += 32, past += 32, p1 += 32, p2 += 32, p3 += 32) {
    const a = f64x2.add(f64x2.mul(l0, v128.load(past)), f64x2.mul(l1, v128.load(p1)));
    const b = f64x2.add(f64x2.mul(l2, v128.load(p2)), f64x2.mul(l3, v128.load(p3)));
    v128.store(column, f64x2.sub(v128.load(column), f64x2.add(a, b)));
    const c = f64x2.add(f64x2.mul(l0, v128.load(past, 16)), f64x2.mul(l1, v128.load(p1, 16)));
    const d = f64x2.add(f64x2.mul(l2, v128.load(p2, 16)), f64x2.mul(l3, v128.load(p3, 16)));
    v128.store(column, f64x2.sub(v128.load(column, 16), f64x2.add(c, d)), 16);
  }
}
