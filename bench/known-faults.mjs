// Known faults put into clean speech, each with the list of what was put where.
import { numbers } from './speech.mjs';

export const gain = (db) => 10 ** (db / 20);
export const db = (power) => 10 * Math.log10(power + 1e-30);
export const power = (x, from = 0, to = x.length) => {
  let sum = 0;
  for (let n = from; n < to; n++) sum += x[n] ** 2;
  return sum / Math.max(1, to - from);
};
/** Signal over what differs from it, dB. */
export function sdr(clean, heard, from = 0, to = clean.length) {
  let signal = 0;
  let rest = 0;
  for (let n = from; n < to; n++) {
    signal += clean[n] ** 2;
    rest += (clean[n] - heard[n]) ** 2;
  }
  return 10 * Math.log10(signal / (rest + 1e-30));
}

/** Whether somebody talks around each frame: louder than -45 dBFS in 50 ms. */
export function talk(clean, rate) {
  const step = Math.round(0.05 * rate);
  const is = new Uint8Array(Math.ceil(clean.length / step));
  for (let i = 0; i < is.length; i++) is[i] = db(power(clean, i * step, Math.min(clean.length, (i + 1) * step))) > -45 ? 1 : 0;
  return { step, is };
}

/** White noise of a level. */
export function withNoise(clean, levelDb, seed = 5) {
  const next = numbers(seed);
  const scale = gain(levelDb);
  return clean.map((x) => x + scale * (next() + next() + next()));
}

/** Mains hum: lines falling by 2 dB each; `levelDb` is the RMS of all of them. */
export function withHum(clean, rate, baseHz, harmonics, levelDb, driftHz = 0) {
  const amplitudes = Array.from({ length: harmonics }, (_, i) => gain(-2 * i));
  const scale = gain(levelDb) / Math.sqrt(amplitudes.reduce((sum, a) => sum + (a * a) / 2, 0));
  let phase = 0;
  return clean.map((x, n) => {
    phase += (2 * Math.PI * (baseHz + driftHz * Math.sin((2 * Math.PI * n) / rate / 40))) / rate;
    return x + scale * amplitudes.reduce((sum, a, i) => sum + a * Math.sin((i + 1) * phase + 0.7 * i), 0);
  });
}

/** Clicks of 0.1 to 2 ms: a jump that rings off, at 3 to 9 dB above the talk's own peaks nearby, or -26 dBFS in a gap. */
export function withClicks(clean, rate, perMinute, seed = 9) {
  const next = numbers(seed);
  const heard = Float32Array.from(clean);
  const clicks = [];
  const count = Math.round((clean.length / rate / 60) * perMinute);
  for (let i = 0; i < count; i++) {
    const at = Math.round(((i + 0.5 + 0.35 * next()) / count) * clean.length);
    if (at < rate / 5 || at > clean.length - rate / 5) continue;
    let peak = 0;
    for (let n = at - rate / 100; n < at + rate / 100; n++) peak = Math.max(peak, Math.abs(clean[Math.round(n)]));
    const level = Math.max(0.05, (peak * gain(-3 + 6 * (next() + 1))) / 2) * Math.sign(next());
    const ringHz = 2500 + 1500 * (next() + 1);
    const lengthFrames = Math.max(3, Math.round(((0.1 + 0.95 * (next() + 1)) / 1000) * rate));
    for (let n = 0; n < lengthFrames; n++)
      heard[at + n] += level * Math.exp((-3.5 * n) / lengthFrames) * Math.cos((2 * Math.PI * ringHz * n) / rate);
    clicks.push({ at, end: at + lengthFrames });
  }
  return { heard, clicks };
}

/** Hard clipping at a share of the peak. */
export function clipped(clean, share) {
  const peak = clean.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  const level = share * peak;
  return { heard: clean.map((x) => Math.max(-level, Math.min(level, x))), level };
}

/** Bursts of air: 60 to 120 ms of energy at 20 to 90 Hz that rises in 5 ms, at the onset of words after a pause. */
export function withPlosives(clean, rate, levelDb = -16, seed = 21) {
  const next = numbers(seed);
  const { step, is } = talk(clean, rate);
  const heard = Float32Array.from(clean);
  const bursts = [];
  for (let i = 6; i < is.length - 4; i++) {
    if (!is[i] || is[i - 1] || is[i - 2] || (bursts.length > 0 && i * step - bursts.at(-1).at < rate)) continue;
    const at = i * step - Math.round(0.02 * rate);
    const length = Math.round((0.09 + 0.03 * next()) * rate);
    const hz = 45 + 15 * next();
    const level = gain(levelDb) * Math.SQRT2 * 1.8;
    for (let n = 0; n < length; n++) {
      const t = n / rate;
      heard[at + n] +=
        level *
        Math.min(1, t / 0.005) *
        Math.exp((-2.5 * n) / length) *
        (1 - n / length) *
        Math.sin(2 * Math.PI * hz * t * (1 - (0.3 * n) / length));
    }
    bursts.push({ at, end: at + length });
  }
  return { heard, bursts };
}

/** Squeezed tops: tanh, so that peaks of the talk come to three quarters of where they were or less. */
export function softlyClipped(clean, share = 0.35) {
  const peak = clean.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  return clean.map((x) => share * peak * Math.tanh(x / (share * peak)));
}

/**
 * Breaths before words: 0.2 to 0.5 s of noise through two wide resonances (about 1 and 2.6 kHz) over a broad rest that
 * falls by 6 dB an octave, rising for two thirds of its length and falling quickly, 22 to 30 dB under the talk, 40 to 160
 * ms before the word. Made, because prompts have none that are marked. `from` is the level of the talk, dBFS.
 */
export function withBreaths(clean, rate, talkDb = -20, seed = 71) {
  const next = numbers(seed);
  const { step, is } = talk(clean, rate);
  const heard = Float32Array.from(clean);
  const breaths = [];
  for (let i = 16; i < is.length - 4; i++) {
    if (!is[i] || is.subarray(i - 14, i).some((x) => x)) continue;
    const length = Math.round((0.35 + 0.15 * next()) * rate);
    const at = i * step - Math.round((0.1 + 0.06 * next()) * rate) - length;
    const level = gain(talkDb - 26 + 4 * next());
    const poles = [
      [1000 + 200 * next(), 0.97],
      [2600 + 400 * next(), 0.96],
    ].map(([hz, r]) => [2 * r * Math.cos((2 * Math.PI * hz) / rate), -r * r]);
    const state = poles.map(() => [0, 0]);
    let broad = 0;
    const sound = Float32Array.from({ length }, () => {
      const x = next();
      broad += 0.3 * (x - broad);
      const ringing = poles.reduce((sum, [a, b], p) => {
        const y = x + a * state[p][0] + b * state[p][1];
        state[p] = [y, state[p][0]];
        return sum + 0.06 * y;
      }, 0);
      return broad + ringing;
    });
    const scale = level / Math.sqrt(power(sound));
    const rise = 0.65 * length;
    for (let n = 0; n < length; n++) heard[at + n] += scale * sound[n] * Math.min(n / rise, (length - n) / (length - rise)) ** 0.7 * 1.4;
    breaths.push({ at, end: at + length });
  }
  return { heard, breaths };
}

/** A room: exponentially decaying noise as impulse response after 8 ms, `directDb` below the direct sound in all. */
export function inRoom(clean, rate, decaySeconds, lateDb, seed = 31) {
  const next = numbers(seed);
  const length = Math.round(decaySeconds * rate);
  const start = Math.round(0.008 * rate);
  const response = Float32Array.from({ length }, (_, n) => (n < start ? 0 : next() * 10 ** ((-3 * n) / length)));
  const scale = gain(lateDb) / Math.sqrt(response.reduce((sum, x) => sum + x * x, 0));
  return {
    late: convolved(
      clean,
      response.map((x) => x * scale),
    ),
    response,
  };
}

/** FFT convolution by blocks, in plain JavaScript: the bench's own, so that it leans on nothing it measures. */
function convolved(x, h) {
  let size = 1;
  while (size < 2 * h.length) size *= 2;
  const block = size - h.length + 1;
  const [hr, hi] = fft(
    Float64Array.from({ length: size }, (_, n) => h[n] ?? 0),
    new Float64Array(size),
  );
  const out = new Float32Array(x.length);
  for (let from = 0; from < x.length; from += block) {
    const [xr, xi] = fft(
      Float64Array.from({ length: size }, (_, n) => (n < block ? (x[from + n] ?? 0) : 0)),
      new Float64Array(size),
    );
    for (let k = 0; k < size; k++) [xr[k], xi[k]] = [xr[k] * hr[k] - xi[k] * hi[k], -(xr[k] * hi[k] + xi[k] * hr[k])];
    const [y] = fft(xr, xi);
    for (let n = 0; n < size && from + n < out.length; n++) out[from + n] += y[n] / size;
  }
  return out;
}

function fft(re, im) {
  const size = re.length;
  for (let i = 1, j = 0; i < size; i++) {
    let bit = size >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i < j) [re[i], re[j], im[i], im[j]] = [re[j], re[i], im[j], im[i]];
  }
  for (let half = 1; half < size; half *= 2)
    for (let k = 0; k < half; k++) {
      const c = Math.cos((-Math.PI * k) / half);
      const s = Math.sin((-Math.PI * k) / half);
      for (let i = k; i < size; i += 2 * half) {
        const r = re[i + half] * c - im[i + half] * s;
        const m = re[i + half] * s + im[i + half] * c;
        re[i + half] = re[i] - r;
        im[i + half] = im[i] - m;
        re[i] += r;
        im[i] += m;
      }
    }
  return [re, im];
}
