// The trunk of the gain network: hears all bands of a frame and tells every band three numbers. A dense layer, two gated recurrent
// layers (Cho et al. 2014), a dense layer; weights of eight bits with one scale an output, inputs rounded to fifteen, sums in 32 bits.
// One set of weights serves all channels; each has a state of its own. bench/train/model.py has the same with its gradients.
import { allocate } from './memory';
import { exp4 } from './speech-model';

/** Largest rounded input: with weights up to 127 the sum over 432 inputs stays below 2^30. */
const MOST_INPUT: f32 = 16383;

let inputs: i32 = 0;
let hidden: i32 = 0;
let outputs: i32 = 0;
export let trunkInput: usize = 0;
/** What the trunk tells: three maps of all bands. */
export let trunkMaps: usize = 0;
/** Both states of each channel. */
export let trunkState: usize = 0;
// Matrices by four outputs, sixteen bytes of each side by side; scales and biases an output.
export let firstWeights: usize = 0;
export let firstScales: usize = 0;
export let firstBias: usize = 0;
export let intoWeights1: usize = 0;
export let intoScales1: usize = 0;
export let intoBias1: usize = 0;
export let againWeights1: usize = 0;
export let againScales1: usize = 0;
export let againBias1: usize = 0;
export let intoWeights2: usize = 0;
export let intoScales2: usize = 0;
export let intoBias2: usize = 0;
export let againWeights2: usize = 0;
export let againScales2: usize = 0;
export let againBias2: usize = 0;
export let mapsWeights: usize = 0;
export let mapsScales: usize = 0;
export let mapsBias: usize = 0;
let rounded: usize = 0;
let layer: usize = 0;
let gates: usize = 0;
let gatesAgain: usize = 0;

/** Counts of inputs and of hidden units are multiples of 16, outputs of 4. */
export function gainTrunkSetUp(channels: i32, inputCount: i32, hiddenCount: i32, outputCount: i32): void {
  inputs = inputCount;
  hidden = hiddenCount;
  outputs = outputCount;
  const h = hiddenCount << 2;
  trunkInput = allocate(inputCount << 2);
  trunkMaps = allocate(outputCount << 2);
  trunkState = allocate(2 * h * channels);
  firstWeights = allocate(inputCount * hiddenCount);
  firstScales = allocate(h);
  firstBias = allocate(h);
  intoWeights1 = allocate(3 * hiddenCount * hiddenCount);
  intoScales1 = allocate(3 * h);
  intoBias1 = allocate(3 * h);
  againWeights1 = allocate(3 * hiddenCount * hiddenCount);
  againScales1 = allocate(3 * h);
  againBias1 = allocate(3 * h);
  intoWeights2 = allocate(3 * hiddenCount * hiddenCount);
  intoScales2 = allocate(3 * h);
  intoBias2 = allocate(3 * h);
  againWeights2 = allocate(3 * hiddenCount * hiddenCount);
  againScales2 = allocate(3 * h);
  againBias2 = allocate(3 * h);
  mapsWeights = allocate(hiddenCount * outputCount);
  mapsScales = allocate(outputCount << 2);
  mapsBias = allocate(outputCount << 2);
  rounded = allocate(2 * max<i32>(inputCount, hiddenCount));
  layer = allocate(h);
  gates = allocate(3 * h);
  gatesAgain = allocate(3 * h);
}

/** Rounds `count` floats into `rounded`, the largest to MOST_INPUT; returns what one step is worth. */
function roundInputs(x: usize, count: i32): f32 {
  let most = f32x4.splat(<f32>1e-12);
  for (let o: usize = 0, end = <usize>count << 2; o < end; o += 16) most = f32x4.pmax(most, f32x4.abs(v128.load(x + o)));
  const top = max<f32>(
    max<f32>(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max<f32>(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
  const scale = f32x4.splat(MOST_INPUT / top);
  for (let i = 0; i < count; i += 8) {
    const a = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(scale, v128.load(x + (<usize>i << 2)))));
    const b = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(scale, v128.load(x + (<usize>i << 2), 16))));
    v128.store(rounded + (<usize>i << 1), i16x8.narrow_i32x4_s(a, b));
  }
  return top / MOST_INPUT;
}

// @ts-ignore: decorator
@inline
function lanesSummed(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = i32x4.add(v128.shuffle<i32>(a, b, 0, 4, 1, 5), v128.shuffle<i32>(a, b, 2, 6, 3, 7));
  const cd = i32x4.add(v128.shuffle<i32>(c, d, 0, 4, 1, 5), v128.shuffle<i32>(c, d, 2, 6, 3, 7));
  return i32x4.add(v128.shuffle<i32>(ab, cd, 0, 1, 4, 5), v128.shuffle<i32>(ab, cd, 2, 3, 6, 7));
}

/** y[columns] = bias + step * scales * (rounded . weights), four outputs at a time; their weights lie sixteen by sixteen side by side. */
function dense(y: usize, weights: usize, scales: usize, bias: usize, rows: i32, columns: i32, step: f32): void {
  const end = rounded + (<usize>rows << 1);
  const worth = f32x4.splat(step);
  let p = weights;
  for (let o: usize = 0, top = <usize>columns << 2; o < top; o += 16) {
    let a = i32x4.splat(0);
    let b = i32x4.splat(0);
    let c = i32x4.splat(0);
    let d = i32x4.splat(0);
    for (let x = rounded; x < end; x += 32, p += 64) {
      const low = v128.load(x);
      const high = v128.load(x, 16);
      a = i32x4.add(a, i32x4.add(i32x4.dot_i16x8_s(low, v128.load_ext<i8>(p, 0)), i32x4.dot_i16x8_s(high, v128.load_ext<i8>(p, 8))));
      b = i32x4.add(b, i32x4.add(i32x4.dot_i16x8_s(low, v128.load_ext<i8>(p, 16)), i32x4.dot_i16x8_s(high, v128.load_ext<i8>(p, 24))));
      c = i32x4.add(c, i32x4.add(i32x4.dot_i16x8_s(low, v128.load_ext<i8>(p, 32)), i32x4.dot_i16x8_s(high, v128.load_ext<i8>(p, 40))));
      d = i32x4.add(d, i32x4.add(i32x4.dot_i16x8_s(low, v128.load_ext<i8>(p, 48)), i32x4.dot_i16x8_s(high, v128.load_ext<i8>(p, 56))));
    }
    const sum = f32x4.convert_i32x4_s(lanesSummed(a, b, c, d));
    v128.store(y + o, f32x4.add(v128.load(bias + o), f32x4.mul(f32x4.mul(worth, v128.load(scales + o)), sum)));
  }
}

// @ts-ignore: decorator
@inline
function sigmoid(x: v128): v128 {
  const one = f32x4.splat(1);
  return f32x4.div(one, f32x4.add(one, exp4(f32x4.neg(x))));
}

/** Moves a state on, given `gates` of the input. */
function recur(state: usize, weights: usize, scales: usize, bias: usize): void {
  const h = <usize>hidden << 2;
  dense(gatesAgain, weights, scales, bias, hidden, 3 * hidden, roundInputs(state, hidden));
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  for (let o: usize = 0; o < h; o += 16) {
    const z = sigmoid(f32x4.add(v128.load(gates + o), v128.load(gatesAgain + o)));
    const r = sigmoid(f32x4.add(v128.load(gates + h + o), v128.load(gatesAgain + h + o)));
    const n = f32x4.sub(f32x4.mul(two, sigmoid(f32x4.mul(two, f32x4.add(v128.load(gates + 2 * h + o), f32x4.mul(r, v128.load(gatesAgain + 2 * h + o)))))), one);
    v128.store(state + o, f32x4.add(n, f32x4.mul(z, f32x4.sub(v128.load(state + o), n))));
  }
}

/** Hears `trunkInput`: the dense layer and the first recurrent one of a channel. */
export function gainTrunkFirst(channel: i32): void {
  const h = <usize>hidden << 2;
  const state = trunkState + <usize>(2 * channel) * h;
  dense(layer, firstWeights, firstScales, firstBias, inputs, hidden, roundInputs(trunkInput, inputs));
  const zero = f32x4.splat(0);
  for (let o: usize = 0; o < h; o += 16) v128.store(layer + o, f32x4.pmax(zero, v128.load(layer + o)));
  dense(gates, intoWeights1, intoScales1, intoBias1, hidden, 3 * hidden, roundInputs(layer, hidden));
  recur(state, againWeights1, againScales1, againBias1);
}

/** The second recurrent layer of a channel, and the maps. */
export function gainTrunkSecond(channel: i32): void {
  const h = <usize>hidden << 2;
  const first = trunkState + <usize>(2 * channel) * h;
  const state = first + h;
  dense(gates, intoWeights2, intoScales2, intoBias2, hidden, 3 * hidden, roundInputs(first, hidden));
  recur(state, againWeights2, againScales2, againBias2);
  dense(trunkMaps, mapsWeights, mapsScales, mapsBias, hidden, outputs, roundInputs(state, hidden));
}
