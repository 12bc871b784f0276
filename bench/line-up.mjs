// Two recordings of one scene by different microphones in different places: made of talk of the full band (bench/full-band.mjs) through two
// rooms (decaying noise behind a direct path), two microphones (tilts, edges), noise of their own 10 dB under the talk, a known offset, a known
// drift, either polarity; and pairs that have nothing to do with each other. Nothing of it was used to set anything.
import { lineUp, RealFft } from '../packages/dsp/dist/index.js';
import { fullBand, people } from './full-band.mjs';
import { kernels } from './measures.mjs';
import { numbers } from './speech.mjs';

const RATE_HZ = 48000;
const SECONDS = 60;
const SNR_DB = 10;
const SIZE = 32768;

function convolved(x, response) {
  const [a, b] = [new RealFft(kernels, SIZE), new RealFft(kernels, SIZE)];
  b.frame.fill(0);
  b.frame.set(response);
  b.forward();
  const [hr, hi] = [b.re.slice(), b.im.slice()];
  const block = SIZE - response.length;
  const out = new Float32Array(x.length + SIZE);
  for (let at = 0; at < x.length; at += block) {
    a.frame.fill(0);
    a.frame.set(x.subarray(at, Math.min(x.length, at + block)));
    a.forward();
    for (let k = 0; k <= SIZE / 2; k++) {
      const [re, im] = [a.re[k] * hr[k] - a.im[k] * hi[k], a.re[k] * hi[k] + a.im[k] * hr[k]];
      a.re[k] = re;
      a.im[k] = im;
    }
    a.inverse();
    for (let n = 0; n < SIZE; n++) out[at + n] += a.frame[n];
  }
  return out.subarray(0, x.length);
}

/** A direct path and a tail that decays by 60 dB in `seconds`, so many dB under it in all. */
function room(next, seconds, tailDb) {
  const length = Math.round(Math.min(0.4, seconds) * RATE_HZ);
  const tail = Float32Array.from({ length }, (_, n) => (n < 96 ? 0 : next() * 10 ** ((-3 * n) / (seconds * RATE_HZ))));
  const energy = tail.reduce((sum, x) => sum + x * x, 0);
  const gain = Math.sqrt(10 ** (tailDb / 10) / energy);
  const response = tail.map((x) => x * gain);
  response[0] = 1;
  return response;
}

/** A microphone: duller above an edge, thinner below another. */
function microphone(x, lowHz, highHz) {
  const [l, h] = [1 - Math.exp((-2 * Math.PI * lowHz) / RATE_HZ), 1 - Math.exp((-2 * Math.PI * highHz) / RATE_HZ)];
  let [slow, dull] = [0, 0];
  return x.map((sample) => {
    slow += l * (sample - slow);
    dull += h * (sample - slow - dull);
    return dull;
  });
}

const power = (x) => x.reduce((sum, y) => sum + y * y, 0) / x.length;
function inNoise(x, next) {
  const level = Math.sqrt((power(x) / 10 ** (SNR_DB / 10)) * 3);
  return x.map((y) => y + level * next());
}

/** x from a frame on, by a clock that is slow by so many parts per million (cubic interpolation). */
function heardFrom(x, from, frames, ppm) {
  return Float32Array.from({ length: frames }, (_, n) => {
    const at = from + n * (1 + ppm * 1e-6);
    const i = Math.floor(at);
    const t = at - i;
    const [a, b, c, d] = [x[i - 1] ?? 0, x[i] ?? 0, x[i + 1] ?? 0, x[i + 2] ?? 0];
    return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
  });
}

const sound = (x) => ({
  frames: x.length,
  read: async (from, to) => {
    const out = new Float32Array(to - from);
    const start = Math.max(0, from);
    out.set(x.subarray(start, Math.max(start, to)), start - from);
    return out;
  },
});

export async function run() {
  const next = numbers(2026);
  const between = (low, high) => low + ((next() + 1) / 2) * (high - low);
  const voices = [...Object.values(people.told), ...Object.values(people.tuned)]
    .map((person) => fullBand(person, 100, -70))
    .filter((x) => x.length >= 80 * RATE_HZ);
  const rows = [];
  let unrelated = 0;
  let unrelatedSure = 0;
  const started = process.cpuUsage();
  for (const [i, voice] of voices.entries())
    for (let round = 0; round < 3; round++) {
      const offset = between(-15, 15);
      const ppm = between(-100, 100);
      const length = Math.min(SECONDS, voice.length / RATE_HZ - 20);
      const take = (from, drift) => heardFrom(voice, Math.round((from + 18) * RATE_HZ), Math.round((length - 4) * RATE_HZ), drift);
      const there = (x) =>
        inNoise(microphone(convolved(x, room(next, between(0.2, 0.6), between(-9, 0))), between(60, 250), between(2500, 12000)), next);
      const first = there(take(-2, 0));
      const flip = next() > 0 ? 1 : -1;
      const second = there(take(-2 + Math.max(-14, Math.min(14, offset)), ppm)).map((y) => flip * 0.4 * y);
      const found = await lineUp(kernels, RATE_HZ, sound(first), sound(second));
      const right = found !== null && Math.abs(found.offsetSeconds - Math.max(-14, Math.min(14, offset))) < 0.001;
      rows.push({
        right,
        certainty: found?.certainty ?? 0,
        ppmOff: found ? Math.abs(found.driftPpm - ppm) : Infinity,
        sign: found?.inverted === flip < 0,
      });
      const other = voices[(i + 1) % voices.length];
      const strange = await lineUp(kernels, RATE_HZ, sound(first), sound(there(other.subarray(0, second.length))));
      unrelated++;
      if ((strange?.certainty ?? 0) > 0.8) unrelatedSure++;
    }
  const share = (list, pick) => (100 * list.filter(pick).length) / list.length;
  const right = rows.filter((row) => row.right);
  const drifts = right.map(({ ppmOff }) => ppmOff).sort((a, b) => a - b);
  return [
    {
      what: `line-up: right to 1 ms, of ${rows.length} pairs`,
      value: share(rows, (row) => row.right),
      limit: 95,
      unit: ' %',
      atLeast: true,
    },
    { what: 'line-up: wrong with certainty above 0.8', value: rows.filter((row) => !row.right && row.certainty > 0.8).length, limit: 0 },
    { what: `line-up: sure of pairs that share nothing, of ${unrelated}`, value: unrelatedSure, limit: 0 },
    { what: 'line-up: certainty above 0.8, of the right ones', value: share(right, (row) => row.certainty > 0.8), unit: ' %' },
    { what: 'line-up: polarity told right, of the right ones', value: share(right, (row) => row.sign), unit: ' %' },
    { what: 'line-up: drift off by, median', value: drifts[drifts.length >> 1], unit: ' ppm' },
    { what: 'line-up: drift off by, nine in ten', value: drifts[Math.floor(0.9 * drifts.length)], unit: ' ppm' },
    {
      what: 'line-up: time for two minutes of sound, made included',
      value: process.cpuUsage(started).user / 1e6 / (2 * rows.length),
      unit: ' s',
    },
  ];
}
