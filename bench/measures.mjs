// Measures of speech quality, each from its paper. Signals are Float32Arrays of one rate and length.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { RealFft } from '../packages/dsp/dist/kernels/real-fft.js';
import { root } from '../scripts/lib/system.mjs';

export const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const ffts = new Map();
export const fftOf = (size) => ffts.get(size) ?? ffts.set(size, new RealFft(kernels, size)).get(size);
const hann = (size) => Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 1)) / (size + 1)));

/** Resampling by a ratio of small whole numbers: windowed sinc (Kaiser-like Blackman), 24 zero crossings to a side. */
export function resampled(x, fromHz, toHz) {
  const divide = (a, b) => (b === 0 ? a : divide(b, a % b));
  const common = divide(fromHz, toHz);
  const [up, down] = [toHz / common, fromHz / common];
  const cut = 0.94 * Math.min(1 / up, 1 / down);
  const reach = Math.ceil(24 / cut);
  const taps = Float64Array.from({ length: 2 * reach + 1 }, (_, i) => {
    const n = i - reach;
    const w = 0.42 + 0.5 * Math.cos((Math.PI * n) / reach) + 0.08 * Math.cos((2 * Math.PI * n) / reach);
    return up * cut * (n === 0 ? 1 : Math.sin(Math.PI * cut * n) / (Math.PI * cut * n)) * w;
  });
  return Float32Array.from({ length: Math.floor((x.length * up) / down) }, (_, m) => {
    const at = m * down;
    let sum = 0;
    for (let k = Math.ceil((at - reach) / up); k <= (at + reach) / up; k++) sum += (x[k] ?? 0) * taps[at - k * up + reach];
    return sum;
  });
}

const ESTOI_HZ = 10000;
const FRAME = 256;
const SEGMENT = 30;
const window256 = hann(FRAME);

/** Third-octave band amplitudes, 15 bands from 150 Hz (Taal et al. 2011, section II). */
function thirdOctaves(x) {
  const fft = fftOf(512);
  const edges = Array.from({ length: 15 }, (_, j) =>
    [150 * 2 ** ((2 * j - 1) / 6), 150 * 2 ** ((2 * j + 1) / 6)].map((hz) => Math.round((hz * 512) / ESTOI_HZ)),
  );
  const frames = [];
  for (let at = 0; at + FRAME <= x.length; at += FRAME / 2) {
    fft.frame.fill(0);
    for (let n = 0; n < FRAME; n++) fft.frame[n] = x[at + n] * window256[n];
    fft.forward();
    frames.push(
      edges.map(([low, high]) => {
        let sum = 0;
        for (let k = low; k < high; k++) sum += fft.re[k] ** 2 + fft.im[k] ** 2;
        return Math.sqrt(sum);
      }),
    );
  }
  return frames;
}

/** Frames of the clean sound within 40 dB of its loudest, put together again by overlap and add, for both sounds. */
function withoutSilence(clean, heard) {
  const kept = [];
  let most = -Infinity;
  const levels = [];
  for (let at = 0; at + FRAME <= clean.length; at += FRAME / 2) {
    let sum = 1e-20;
    for (let n = 0; n < FRAME; n++) sum += (clean[at + n] * window256[n]) ** 2;
    levels.push(10 * Math.log10(sum));
    most = Math.max(most, levels.at(-1));
  }
  levels.forEach((level, i) => level > most - 40 && kept.push((i * FRAME) / 2));
  return [clean, heard].map((x) => {
    const out = new Float32Array(((kept.length + 1) * FRAME) / 2);
    kept.forEach((at, i) => {
      for (let n = 0; n < FRAME; n++) out[(i * FRAME) / 2 + n] += x[at + n] * window256[n];
    });
    return out;
  });
}

function normalised(values) {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  const norm = Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0)) + 1e-12;
  return values.map((v) => (v - mean) / norm);
}

const cleanAt10k = new WeakMap();

/** ESTOI, Jensen & Taal 2016, eq. 4 to 8: 0 to 1. Every third segment is looked at: they overlap by 29 frames of 30. */
export function estoi(clean, heard, rate) {
  if (!cleanAt10k.has(clean)) cleanAt10k.set(clean, resampled(clean, rate, ESTOI_HZ));
  const [x, y] = withoutSilence(cleanAt10k.get(clean), resampled(heard, rate, ESTOI_HZ)).map(thirdOctaves);
  let sum = 0,
    count = 0;
  for (let m = SEGMENT; m <= x.length; m += 3) {
    const [a, b] = [x, y].map((frames) => {
      const rows = Array.from({ length: 15 }, (_, j) => normalised(frames.slice(m - SEGMENT, m).map((frame) => frame[j])));
      return Array.from({ length: SEGMENT }, (_, n) => normalised(rows.map((row) => row[n])));
    });
    for (let n = 0; n < SEGMENT; n++) for (let j = 0; j < 15; j++) sum += a[n][j] * b[n][j];
    count += SEGMENT;
  }
  return sum / count;
}

/** SI-SDR, Le Roux et al. 2019, eq. 4: dB. */
export function siSdr(clean, heard) {
  let product = 0,
    energy = 0;
  for (let n = 0; n < clean.length; n++) {
    product += clean[n] * heard[n];
    energy += clean[n] ** 2;
  }
  const scale = product / energy;
  let target = 0,
    rest = 0;
  for (let n = 0; n < clean.length; n++) {
    target += (scale * clean[n]) ** 2;
    rest += (heard[n] - scale * clean[n]) ** 2;
  }
  return 10 * Math.log10(target / (rest + 1e-20));
}

/** Centres and widths of the 25 critical bands of Hu & Loizou 2008 (their table of the articulation index), Hz. */
const CRITICAL = [
  50, 120, 190, 260, 330, 400, 470, 540, 617.372, 703.378, 798.717, 904.128, 1020.38, 1148.3, 1288.72, 1442.54, 1610.7, 1794.16, 1993.93,
  2211.08, 2446.71, 2701.97, 2978.04, 3276.17, 3597.63,
];
const WIDTHS = [
  70, 70, 70, 70, 70, 70, 70, 77.3724, 86.0056, 95.3398, 105.411, 116.256, 127.914, 140.423, 153.823, 168.154, 183.457, 199.776, 217.153,
  235.631, 255.255, 276.072, 298.126, 321.465, 346.136,
];

/** Frequency-weighted segmental SNR, Hu & Loizou 2008, eq. 8: dB, limited to -10 … 35 a band, weights |X|^0.2. */
export function segmentalSnr(clean, heard, rate) {
  const size = 2 ** Math.round(Math.log2(0.03 * rate));
  const fft = fftOf(size);
  const w = hann(size);
  const bands = CRITICAL.map((hz, i) => {
    const width = Math.max(WIDTHS[i], (2 * rate) / size);
    return Array.from({ length: size / 2 + 1 }, (_, k) => Math.exp(-11 * (((k * rate) / size - hz) / width) ** 2))
      .map((g, k) => [k, g])
      .filter(([, g]) => g > 0.001);
  });
  const spectrum = (x, at) => {
    for (let n = 0; n < size; n++) fft.frame[n] = x[at + n] * w[n];
    fft.forward();
    return bands.map((band) => band.reduce((sum, [k, g]) => sum + g * Math.hypot(fft.re[k], fft.im[k]), 0));
  };
  const frames = [];
  for (let at = 0; at + size <= clean.length; at += size / 2) {
    const [x, y] = [spectrum(clean, at), spectrum(heard, at)];
    const energy = x.reduce((sum, v) => sum + v * v, 0);
    let top = 0,
      weights = 0;
    x.forEach((v, j) => {
      const weight = v ** 0.2;
      top += weight * Math.max(-10, Math.min(35, 10 * Math.log10((v * v) / ((v - y[j]) ** 2 + 1e-20) + 1e-20)));
      weights += weight;
    });
    frames.push([energy, top / (weights + 1e-20)]);
  }
  // Frames of talk only: silence has no SNR.
  const most = Math.max(...frames.map(([energy]) => energy));
  const talking = frames.filter(([energy]) => energy > most * 1e-4);
  return talking.reduce((sum, [, snr]) => sum + snr, 0) / talking.length;
}

/** Kurtosis of the powers of all bins over time, E[P⁴] / E[P²]²: the ratio after to before tells musical noise (Uemura et al. 2008). */
export function powerKurtosis(x, rate, from = 0, to = x.length) {
  const size = 2 ** Math.round(Math.log2(0.03 * rate));
  const fft = fftOf(size);
  const w = hann(size);
  const [low, high] = [Math.ceil((200 * size) / rate), Math.floor((7000 * size) / rate)];
  const second = new Float64Array(size / 2 + 1),
    fourth = new Float64Array(size / 2 + 1);
  let frames = 0;
  for (let at = from; at + size <= to; at += size / 2, frames++) {
    for (let n = 0; n < size; n++) fft.frame[n] = x[at + n] * w[n];
    fft.forward();
    for (let k = low; k <= high; k++) {
      const p = fft.re[k] ** 2 + fft.im[k] ** 2;
      second[k] += p * p;
      fourth[k] += p ** 4;
    }
  }
  let sum = 0;
  for (let k = low; k <= high; k++) sum += Math.log((fourth[k] / frames + 1e-60) / ((second[k] / frames) ** 2 + 1e-60));
  return Math.exp(sum / (high - low + 1));
}
