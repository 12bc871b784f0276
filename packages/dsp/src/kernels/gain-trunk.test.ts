import { GAIN_BANDS, gainWeights } from '../noise/gain-network.js';
import { kernels, randomNumbers } from '../testing/signals.js';
import { GainTrunk } from './gain-trunk.js';

const { floats, bytes } = gainWeights(kernels);
const HIDDEN = 192;

/** bias + x W, in doubles. */
function dense(name: string, bias: string, x: ArrayLike<number>): Float64Array {
  const weights = bytes[name.replace('#', 'Weights')]!;
  const scales = floats[name.replace('#', 'Scales')]!;
  return Float64Array.from(scales, (scale, j) => {
    let sum = 0;
    for (let i = 0; i < x.length; i++) sum += x[i]! * weights[j * x.length + i]!;
    return floats[bias]![j]! + scale * sum;
  });
}
const sigmoid = (x: number): number => 1 / (1 + Math.exp(-x));

/** A gated recurrent layer (Cho et al. 2014, in the form of PyTorch's documentation: z keeps, r forgets). */
function recurrent(layer: 1 | 2, x: ArrayLike<number>, h: Float64Array): Float64Array {
  const u = dense(`into#${layer}`, `intoBias${layer}`, x);
  const v = dense(`again#${layer}`, `againBias${layer}`, h);
  return h.map((before, i) => {
    const z = sigmoid(u[i]! + v[i]!);
    const r = sigmoid(u[HIDDEN + i]! + v[HIDDEN + i]!);
    const n = Math.tanh(u[2 * HIDDEN + i]! + r * v[2 * HIDDEN + i]!);
    return (1 - z) * n + z * before;
  });
}

test('the trunk agrees with a plain reference to -60 dB, frame after frame, two channels with states of their own', () => {
  const trunk = new GainTrunk(kernels, 2);
  const next = randomNumbers(4);
  const states = [0, 1].map(() => [new Float64Array(HIDDEN), new Float64Array(HIDDEN)] as [Float64Array, Float64Array]);
  let [error, size] = [0, 0];
  for (let frame = 0; frame < 40; frame++)
    for (const channel of [0, 1]) {
      const input = Float32Array.from({ length: 2 * GAIN_BANDS }, () => next() * (channel === 0 ? 1.5 : 0.4));
      trunk.input.set(input);
      trunk.first(channel);
      trunk.second(channel);
      const state = states[channel]!;
      const layer = dense('first#', 'firstBias', input).map((x) => Math.max(0, x));
      state[0] = recurrent(1, layer, state[0]);
      state[1] = recurrent(2, state[0], state[1]);
      const maps = dense('maps#', 'mapsBias', state[1]);
      for (let i = 0; i < maps.length; i++) {
        error += (maps[i]! - trunk.maps[i]!) ** 2;
        size += maps[i]! ** 2;
      }
    }
  expect(size).toBeGreaterThan(1);
  expect(10 * Math.log10(error / size)).toBeLessThan(-60);
});

test('weights weigh less than 1.5 MB, and every one is a number', () => {
  const total =
    Object.values(floats).reduce((sum, list) => sum + 4 * list.length, 0) +
    Object.values(bytes).reduce((sum, list) => sum + list.length, 0);
  expect(total).toBeLessThan(1.5e6);
  for (const list of Object.values(floats)) expect(list.every(Number.isFinite)).toBe(true);
});
