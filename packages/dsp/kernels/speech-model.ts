// The speech model, one step a frame: dense layer, gated recurrent layer, dense layer (bench/train/network.mjs has the
// same with its gradients). Single precision; matrices by rows, one row an input.
import { allocate } from './memory';

let bands: i32 = 0;
let hidden: i32 = 0;
/** Inputs: one feature a band. Outputs: the share of speech in each band, 0 … 1. */
export let modelInput: usize = 0;
export let modelOutput: usize = 0;
/** What the recurrent layer remembers. */
export let modelState: usize = 0;
/** … after long silence: where it starts from. */
export let modelSilent: usize = 0;
export let modelFirst: usize = 0;
export let modelFirstBias: usize = 0;
export let modelInto: usize = 0;
export let modelIntoBias: usize = 0;
export let modelAgain: usize = 0;
export let modelAgainBias: usize = 0;
export let modelLast: usize = 0;
export let modelLastBias: usize = 0;
let layer: usize = 0;
let gates: usize = 0;
let gatesAgain: usize = 0;

/** `bandCount` and `hiddenCount` are multiples of 16. */
export function speechModelSetUp(bandCount: i32, hiddenCount: i32): void {
  bands = bandCount;
  hidden = hiddenCount;
  const h = hiddenCount << 2;
  const b = bandCount << 2;
  modelInput = allocate(b);
  modelOutput = allocate(b);
  modelState = allocate(h);
  modelSilent = allocate(h);
  modelFirst = allocate((h * bandCount));
  modelFirstBias = allocate(h);
  modelInto = allocate((3 * h * hiddenCount));
  modelIntoBias = allocate((3 * h));
  modelAgain = allocate((3 * h * hiddenCount));
  modelAgainBias = allocate((3 * h));
  modelLast = allocate((b * hiddenCount));
  modelLastBias = allocate(b);
  layer = allocate(h);
  gates = allocate((3 * h));
  gatesAgain = allocate((3 * h));
}

/** y[columns] = bias + x[rows] W[rows][columns], sixteen columns at a time. */
function dense(y: usize, x: usize, w: usize, bias: usize, rows: i32, columns: i32): void {
  const rowBytes = <usize>columns << 2;
  for (let j: usize = 0; j < rowBytes; j += 64) {
    let a = v128.load(bias + j), b = v128.load(bias + j, 16), c = v128.load(bias + j, 32), d = v128.load(bias + j, 48);
    let p = w + j;
    for (let px = x, end = x + (<usize>rows << 2); px < end; px += 4, p += rowBytes) {
      const v = v128.load32_splat(px);
      a = f32x4.add(a, f32x4.mul(v, v128.load(p)));
      b = f32x4.add(b, f32x4.mul(v, v128.load(p, 16)));
      c = f32x4.add(c, f32x4.mul(v, v128.load(p, 32)));
      d = f32x4.add(d, f32x4.mul(v, v128.load(p, 48)));
    }
    v128.store(y + j, a);
    v128.store(y + j, b, 16);
    v128.store(y + j, c, 32);
    v128.store(y + j, d, 48);
  }
}

/** e^x of four values: 2^n by the exponent, the rest by a polynomial; good to 1e-6 from -80 to 80. */
// @ts-ignore: decorator
@inline
export function exp4(x: v128): v128 {
  const scaled = f32x4.mul(f32x4.pmin(f32x4.splat(80), f32x4.pmax(f32x4.splat(-80), x)), f32x4.splat(<f32>1.4426950408889634));
  const whole = f32x4.nearest(scaled);
  const t = f32x4.mul(f32x4.sub(scaled, whole), f32x4.splat(<f32>0.6931471805599453));
  let p = f32x4.add(f32x4.splat(<f32>(1.0 / 120)), f32x4.mul(t, f32x4.splat(<f32>(1.0 / 720))));
  p = f32x4.add(f32x4.splat(<f32>(1.0 / 24)), f32x4.mul(t, p));
  p = f32x4.add(f32x4.splat(<f32>(1.0 / 6)), f32x4.mul(t, p));
  p = f32x4.add(f32x4.splat(0.5), f32x4.mul(t, p));
  p = f32x4.add(f32x4.splat(1), f32x4.mul(t, p));
  p = f32x4.add(f32x4.splat(1), f32x4.mul(t, p));
  return f32x4.mul(p, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23));
}

// @ts-ignore: decorator
@inline
function sigmoid4(x: v128): v128 {
  const one = f32x4.splat(1);
  return f32x4.div(one, f32x4.add(one, exp4(f32x4.neg(x))));
}

// @ts-ignore: decorator
@inline
function tanh4(x: v128): v128 {
  const two = f32x4.splat(2);
  return f32x4.sub(f32x4.mul(two, sigmoid4(f32x4.mul(two, x))), f32x4.splat(1));
}

/** Takes the features in `modelInput`, moves the state on, and leaves the shares in `modelOutput`. */
export function speechModelStep(): void {
  const h = <usize>hidden << 2;
  dense(layer, modelInput, modelFirst, modelFirstBias, bands, hidden);
  for (let o: usize = 0; o < h; o += 16) v128.store(layer + o, tanh4(v128.load(layer + o)));
  dense(gates, layer, modelInto, modelIntoBias, hidden, 3 * hidden);
  dense(gatesAgain, modelState, modelAgain, modelAgainBias, hidden, 3 * hidden);
  for (let o: usize = 0; o < h; o += 16) {
    const z = sigmoid4(f32x4.add(v128.load(gates + o), v128.load(gatesAgain + o)));
    const r = sigmoid4(f32x4.add(v128.load(gates + h + o), v128.load(gatesAgain + h + o)));
    const n = tanh4(f32x4.add(v128.load(gates + 2 * h + o), f32x4.mul(r, v128.load(gatesAgain + 2 * h + o))));
    v128.store(modelState + o, f32x4.add(n, f32x4.mul(z, f32x4.sub(v128.load(modelState + o), n))));
  }
  dense(modelOutput, modelState, modelLast, modelLastBias, hidden, bands);
  for (let o: usize = 0; o < <usize>bands << 2; o += 16) v128.store(modelOutput + o, sigmoid4(v128.load(modelOutput + o)));
}
