// The textbook methods, from their papers: gains on a short-time Fourier transform (√Hann, 75 % overlap), given the mean
// noise power of a passage. Each returns gains[frame][bin]; `apply` treats any sound with them (shadow filtering).
import { fftOf } from './measures.mjs';

export const sizeAt = (rate) => 2 ** Math.round(Math.log2(0.0427 * rate));
const windowOf = (size) => Float32Array.from({ length: size }, (_, n) => Math.sqrt(0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size)));

/** Power spectra |X|² of a sound, frame by frame; frame f starts at f hop - size + hop. */
export function powers(x, size) {
  const fft = fftOf(size);
  const w = windowOf(size);
  const hop = size / 4;
  return Array.from({ length: Math.ceil(x.length / hop) + 3 }, (_, f) => {
    const from = (f + 1) * hop - size;
    for (let n = 0; n < size; n++) fft.frame[n] = (x[from + n] ?? 0) * w[n];
    fft.forward();
    return Float64Array.from(fft.re, (re, k) => re * re + fft.im[k] ** 2);
  });
}

/** A sound through gains. */
export function apply(x, gains, size) {
  const fft = fftOf(size);
  const w = windowOf(size);
  const hop = size / 4;
  const out = new Float32Array(x.length);
  gains.forEach((gain, f) => {
    const from = (f + 1) * hop - size;
    for (let n = 0; n < size; n++) fft.frame[n] = (x[from + n] ?? 0) * w[n];
    fft.forward();
    for (let k = 0; k <= size / 2; k++) {
      fft.re[k] *= gain[k];
      fft.im[k] *= gain[k];
    }
    fft.inverse();
    for (let n = 0; n < size; n++) if (from + n >= 0 && from + n < out.length) out[from + n] += fft.frame[n] * w[n] * 0.5;
  });
  return out;
}

/** Boll 1979: magnitudes averaged over three frames, subtracted, rectified; residual noise by the least of three frames; -30 dB where nobody talks. */
function boll(frames, noise, { largest }) {
  const mean = Float64Array.from(noise, Math.sqrt);
  const averaged = frames.map((_, f) =>
    Float64Array.from(
      mean,
      (_, k) => (Math.sqrt((frames[f - 1] ?? frames[f])[k]) + Math.sqrt(frames[f][k]) + Math.sqrt((frames[f + 1] ?? frames[f])[k])) / 3,
    ),
  );
  const subtracted = averaged.map((a) => a.map((v, k) => Math.max(0, v - mean[k])));
  return subtracted.map((s, f) => {
    const low = s.map((v, k) => (v < largest[k] ? Math.min(v, (subtracted[f - 1] ?? s)[k], (subtracted[f + 1] ?? s)[k]) : v));
    const activity = 10 * Math.log10(low.reduce((sum, v, k) => sum + (v / mean[k]) ** 2, 1e-12) / low.length);
    const quiet = activity < -12;
    return Float64Array.from(low, (v, k) => (quiet ? 10 ** (-30 / 20) : Math.min(1, v / (Math.sqrt(frames[f][k]) + 1e-12))));
  });
}

/** Berouti, Schwartz & Makhoul 1979: power subtraction, oversubtraction by the frame's SNR (4 at 0 dB, 3/20 a dB), floor 0.02. */
function berouti(frames, noise) {
  const total = noise.reduce((sum, v) => sum + v, 0);
  return frames.map((p) => {
    const snr = 10 * Math.log10(p.reduce((sum, v) => sum + v, 1e-20) / total);
    const alpha = snr < -5 ? 4.75 : snr > 20 ? 1 : 4 - (3 / 20) * snr;
    return Float64Array.from(p, (v, k) => Math.sqrt(Math.min(1, Math.max(v - alpha * noise[k], 0.02 * noise[k]) / (v + 1e-20))));
  });
}

/** Exponential integral, Abramowitz & Stegun 5.1.53 and 5.1.56. */
const e1 = (x) =>
  x < 1
    ? -Math.log(x) - 0.57721566 + x * (0.99999193 + x * (-0.24991055 + x * (0.05519968 + x * (-0.00976004 + x * 0.00107857))))
    : (Math.exp(-x) / x) *
      ((x ** 4 + 8.5733287401 * x ** 3 + 18.059016973 * x * x + 8.6347608925 * x + 0.2677737343) /
        (x ** 4 + 9.5733223454 * x ** 3 + 25.6329561486 * x * x + 21.0996530827 * x + 3.9584969228));

/** Decision-directed a-priori SNR (Ephraim & Malah 1984, eq. 51), 0.98, -25 dB at least, and a rule for the gain. */
const decisionDirected = (rule) => (frames, noise) => {
  let past = new Float64Array(noise.length);
  return frames.map((p) => {
    const gain = new Float64Array(noise.length);
    for (let k = 0; k < gain.length; k++) {
      const post = p[k] / noise[k];
      const prior = Math.max(10 ** -2.5, (0.98 * past[k]) / noise[k] + 0.02 * Math.max(0, post - 1));
      gain[k] = rule(prior, post);
      past[k] = gain[k] ** 2 * p[k];
    }
    past = past.slice();
    return gain;
  });
};

export const methods = {
  'Boll 1979': boll,
  'Berouti 1979': berouti,
  'Wiener, decision-directed': decisionDirected((prior) => prior / (1 + prior)),
  'log-MMSE 1985': decisionDirected((prior, post) => {
    const v = Math.max(1e-10, (prior / (1 + prior)) * post);
    return Math.min(1, (prior / (1 + prior)) * Math.exp(0.5 * e1(v)));
  }),
};

/** The ceiling: a Wiener gain that knows speech and noise. */
export const ideal = (speech, noise) => speech.map((s, f) => s.map((v, k) => v / (v + noise[f][k] + 1e-20)));

/** Mean power of a passage, and the largest residual of its magnitudes (for Boll). */
export function profileOf(passage, size) {
  const frames = powers(passage, size).slice(4, -4);
  const mean = Float64Array.from({ length: size / 2 + 1 }, (_, k) => frames.reduce((sum, p) => sum + p[k], 0) / frames.length + 1e-16);
  const largest = mean.map((m, k) => Math.max(...frames.map((p) => Math.sqrt(p[k]))) - Math.sqrt(m));
  return { mean, largest };
}
