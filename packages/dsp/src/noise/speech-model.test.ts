import { kernels, noise, RATE_HZ, voice } from '../testing/signals.js';
import { RealFft } from '../kernels/real-fft.js';
import { analysisWindow } from '../spectrum/window.js';
import { bandFeature, SPEECH_BANDS, speechBandBins, speechBandEdgesHz } from './speech-bands.js';
import { SPEECH_LOOK_AHEAD, SpeechModel } from './speech-model.js';

const SIZE = 2048;
const bins = speechBandBins(RATE_HZ / SIZE);

function bandPowers(fft: RealFft, x: Float32Array, from: number): number[] {
  const window = analysisWindow(SIZE);
  for (let n = 0; n < SIZE; n++) fft.frame[n] = (x[from + n] ?? 0) * window[n]!;
  fft.forward();
  return Array.from({ length: SPEECH_BANDS }, (_, b) => {
    let sum = 0;
    for (let k = bins[b]!; k < bins[b + 1]!; k++) sum += fft.re[k]! ** 2 + fft.im[k]! ** 2;
    return sum;
  });
}

/** Mean share over the bands, frame by frame, of a sound over the noise of another. */
function shares(x: Float32Array, profiled: Float32Array): number[] {
  const fft = new RealFft(kernels, SIZE);
  const model = new SpeechModel(kernels);
  const known = new Array<number>(SPEECH_BANDS).fill(0);
  let frames = 0;
  for (let at = 0; at + SIZE <= profiled.length; at += SIZE / 4, frames++)
    bandPowers(fft, profiled, at).forEach((power, b) => (known[b]! += power));
  const means: number[] = [];
  for (let at = 0; at + SIZE <= x.length; at += SIZE / 4) {
    model.input.set(bandPowers(fft, x, at).map((power, b) => bandFeature(power, known[b]! / frames)));
    model.step();
    means.push(model.output.reduce((sum, share) => sum + share, 0) / SPEECH_BANDS);
  }
  return means;
}

const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;

test('bands: ascending, 50 Hz wide at least, from 50 Hz to 8 kHz; as wide as 0.6 ERB where that is more', () => {
  expect(SPEECH_BANDS).toBe(48);
  expect(speechBandEdgesHz[0]).toBe(50);
  expect(speechBandEdgesHz[SPEECH_BANDS]).toBe(8000);
  for (let b = 0; b < SPEECH_BANDS - 1; b++) expect(speechBandEdgesHz[b + 1]! - speechBandEdgesHz[b]!).toBeGreaterThan(49.99);
  // ERB at 4 kHz: 24.7 (4.37 · 4 + 1) = 456 Hz, Glasberg & Moore 1990, table of their eq. 3.
  const b = speechBandEdgesHz.findIndex((hz) => hz > 4000) - 1;
  expect(Math.abs((speechBandEdgesHz[b + 1]! - speechBandEdgesHz[b]!) / (0.6 * 456.5) - 1)).toBeLessThan(0.1);
  for (const binHz of [7.8, 15.6, 23.4, 46.9])
    speechBandBins(binHz).forEach((bin, i, all) => i > 0 && expect(bin).toBeGreaterThan(all[i - 1]!));
});

test('noise alone is no speech; talk over it is, at 20 and at 5 dB', () => {
  const room = noise(-50, 3, 1);
  const talk = voice(3, 130);
  expect(mean(shares(noise(-50, 3, 2), room).slice(20))).toBeLessThan(0.03);
  for (const [level, least] of [
    [-50, 0.2],
    [-30, 0.08],
  ] as const) {
    const hiss = noise(level, 3, 3);
    expect(
      mean(
        shares(
          talk.map((x, n) => x + hiss[n]!),
          noise(level, 3, 1),
        ).slice(20),
      ),
    ).toBeGreaterThan(least);
  }
});

test('it looks two frames ahead, and remembers: the same frame after other ones says something else', () => {
  expect(SPEECH_LOOK_AHEAD).toBe(2);
  const model = new SpeechModel(kernels);
  model.input.fill(0.5);
  model.step();
  const first = model.output.slice();
  for (let i = 0; i < 30; i++) model.step();
  expect(model.output).not.toEqual(first);
  expect(Math.max(...model.output)).toBeLessThanOrEqual(1);
  expect(Math.min(...model.output)).toBeGreaterThanOrEqual(0);
});
