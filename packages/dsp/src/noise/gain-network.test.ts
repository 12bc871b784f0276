import { NoiseReducer } from '../kernels/noise-reducer.js';
import { GainTrunk } from '../kernels/gain-trunk.js';
import { RealFft } from '../kernels/real-fft.js';
import { analysisWindow } from '../spectrum/window.js';
import { kernels, mixed, noise, voice } from '../testing/signals.js';
import { GAIN_BANDS, GAIN_SINGLE, gainWeights } from './gain-network.js';

const SIZE = 1024;
const HOP = SIZE / 4;
const BINS = SIZE / 2 + 1;
const RATE = 24_000;
const EDGES = Array.from({ length: 46 }, (_, i) => Math.round(GAIN_SINGLE * 3 ** (i / 45)));
const { floats } = gainWeights(kernels);

const bandsOf = (power: ArrayLike<number>): Float64Array =>
  Float64Array.from({ length: GAIN_BANDS }, (_, b) => {
    if (b < GAIN_SINGLE) return power[b]!;
    const [from, to] = [EDGES[b - GAIN_SINGLE]!, EDGES[b - GAIN_SINGLE + 1]!];
    let sum = 0;
    for (let k = from; k < to; k++) sum += power[k]!;
    return sum / (to - from);
  });
const clip = (x: number, low: number, high: number): number => Math.max(low, Math.min(high, x));
const level = (power: ArrayLike<number>): number => {
  let sum = 0;
  for (let k = 4; k < 171; k++) sum += power[k]!;
  return Math.log10(sum / 167 + 1e-12);
};

interface Heard {
  readonly f1: Float64Array;
  readonly f2: Float64Array;
  readonly dd: Float64Array;
}

/** What the network is told, frame by frame, as bench/train/model.py says it. */
function plainFeatures(noisePower: Float64Array): (power: Float64Array) => Heard {
  const past = new Float64Array(BINS);
  let running = level(noisePower);
  return (power) => {
    const energy = level(power);
    running += (energy > running ? 0.3 : 0.01) * (energy - running);
    const [p, n] = [bandsOf(power), bandsOf(noisePower)];
    const prior = power.map((x, k) => {
      const post = x / noisePower[k]!;
      const found = Math.max(10 ** -2.5, 0.96 * past[k]! + 0.04 * Math.max(0, post - 1));
      past[k] = (found / (1 + found)) ** 2 * post;
      return found;
    });
    return {
      f1: p.map((x, b) => clip(Math.log10(x / n[b]! + 1e-12), -2, 4) - 0.3),
      f2: p.map((x) => (clip(Math.log10(x + 1e-12) - running, -6, 2) + 1.5) / 1.3),
      dd: bandsOf(prior).map((x) => (clip(Math.log10(x), -2.5, 4) + 0.5) / 1.3),
    };
  };
}

/** Gain of each band of frame t, of features up to two frames later and maps of the trunk up to one. */
function plainGains(heard: readonly Heard[], t: number, maps: Float32Array): Float64Array {
  const at = (list: 'f1' | 'f2' | 'dd', d: number, b: number): number => heard[t + d]![list][b] ?? 0;
  return Float64Array.from({ length: GAIN_BANDS }, (_, b) => {
    const parts = [-2, -1, 0, 1, 2].map((d) => at('f1', d, b));
    parts.push(at('dd', 0, b), at('dd', 2, b), at('f1', 0, b - 2), at('f1', 0, b - 1), at('f1', 0, b + 1), at('f1', 0, b + 2));
    parts.push(at('dd', 1, b - 1), at('dd', 1, b + 1), at('f2', 0, b), maps[b]!, maps[GAIN_BANDS + b]!, maps[2 * GAIN_BANDS + b]!);
    let z = maps[b]! + floats['joinWeights']![6]!;
    for (let u = 0; u < 6; u++) {
      const sum = parts.reduce((all, x, i) => all + x * floats['localWeights']![6 * i + u]!, floats['localBias']![u]!);
      z += floats['joinWeights']![u]! * Math.max(0, sum);
    }
    const skip = (row: number): number => floats['skipWeights']![row * GAIN_BANDS + b]!;
    z += skip(0) * at('f1', 0, b) + skip(1) * at('dd', 0, b) + skip(2) * at('dd', 1, b) + skip(3) * at('dd', 2, b) + skip(4);
    return 1 / (1 + Math.exp(-z));
  });
}

test('features and gains of the kernel agree with plain ones to -60 dB', () => {
  const hiss = noise(-50, 2, 3, RATE);
  const sound = mixed(voice(2, 140, 5, RATE), hiss);
  const window = analysisWindow(SIZE);
  const kernel = new NoiseReducer(kernels, SIZE, RATE / SIZE, true);
  const trunk = new GainTrunk(kernels, 1);
  const fft = new RealFft(kernels, SIZE);
  const spectrum = (x: Float32Array, at: number): Float64Array => {
    for (let n = 0; n < SIZE; n++) fft.frame[n] = (x[at + n] ?? 0) * window[n]!;
    fft.forward();
    return Float64Array.from(fft.re, (re, k) => re * re + fft.im[k]! ** 2);
  };
  const noisePower = new Float64Array(BINS);
  for (let f = 0; f < 100; f++) spectrum(hiss, f * HOP).forEach((p, k) => (noisePower[k]! += p / 100));
  kernel.window.set(window);
  kernel.profilePower.set(noisePower);
  kernel.floors.fill(0.01);
  kernel.reset();
  const hear = plainFeatures(Float64Array.from(kernel.profilePower));
  const heard: Heard[] = [];
  const maps: Float32Array[] = [];
  let [error, size] = [0, 0];
  for (let f = 0; (f + 4) * HOP <= sound.length; f++) {
    const end = (f + 1) * HOP;
    kernel.history.set(sound.subarray(f * HOP, end), SIZE - HOP);
    heard.push(
      hear(spectrum(new Float32Array([...new Float32Array(SIZE), ...sound.subarray(Math.max(0, end - SIZE), end)]).slice(-SIZE), 0)),
    );
    kernel.reduceHop(0, 0.94, 10 ** -2.5, 1, 0, 1, 1, 0, 0);
    const newest = heard[f]!;
    for (let b = 0; b < GAIN_BANDS; b++) {
      expect(Math.abs(kernel.bandFeatures[b]! - newest.f1[b]!)).toBeLessThan(2e-3);
      expect(Math.abs(kernel.bandFeatures[GAIN_BANDS + b]! - newest.f2[b]!)).toBeLessThan(2e-3);
    }
    if (f >= 4) {
      const plain = plainGains(heard, f - 2, maps[f - 1]!);
      for (let b = 0; b < GAIN_SINGLE; b++) {
        error += (plain[b]! - kernel.binGain[b]!) ** 2;
        size += plain[b]! ** 2;
      }
    }
    trunk.input.set(kernel.bandFeatures);
    trunk.first(0);
    trunk.second(0);
    maps.push(trunk.maps.slice());
    kernel.bandMaps.set(trunk.maps);
  }
  expect(10 * Math.log10(error / size)).toBeLessThan(-60);
});
