// Speech in noise for the noise bench: talkers, languages and noises that no network here was trained or tuned on (fetched, not
// shipped), at 24 kHz; and made noises.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { folder } from './sounds.mjs';
import { fullBand, people } from './full-band.mjs';
import { resampled } from './measures.mjs';
import { fetchPackage, numbers } from './speech.mjs';

export const RATE_HZ = 24000;
export const SECONDS = 12;
/** Noise alone before the talk: 1.5 s for the profile, and a little that belongs to neither. */
export const LEAD_SECONDS = 2;
export const PROFILE_SECONDS = 1.5;

const floats = (bytes) => new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length - (bytes.length % 4)));
const decoded = (path) =>
  floats(
    execFileSync(
      'ffmpeg',
      ['-nostdin', '-v', 'error', '-i', path, '-ac', '1', '-af', `aresample=${RATE_HZ}:resampler=soxr`, '-f', 'f32le', '-'],
      { maxBuffer: 1 << 28 },
    ),
  );

/** People of other languages than any that the gain network has heard, in rooms of their own. */
export const voices = Object.fromEntries(
  Object.entries(people.told).map(([name, person]) => [
    name,
    () => {
      const talk = resampled(fullBand(person, SECONDS + 12), 48000, RATE_HZ);
      return Float32Array.from({ length: SECONDS * RATE_HZ }, (_, n) => talk[n % talk.length]);
    },
  ]),
);

/** A sound of a package, by the end of its path. */
const sample = (name, ending) => () => {
  const kept = join(folder, `noise-${name}-${ending.replace(/\W/g, '-')}.f32`);
  if (!existsSync(kept)) {
    const unpacked = fetchPackage(name);
    const path = readdirSync(unpacked, { recursive: true }).find((file) => file.endsWith(`/${ending}`));
    writeFileSync(kept, Buffer.from(decoded(join(unpacked, path)).buffer));
  }
  return floats(readFileSync(kept));
};

/** Gaussian-like noise through first-order filters: `tilt` of them, each -6 dB an octave above `hz`. */
function coloured(seed, tilt, hz = 30, length = (SECONDS + LEAD_SECONDS) * RATE_HZ) {
  const next = numbers(seed);
  let x = Float32Array.from({ length }, () => next() + next() + next());
  const share = 1 - Math.exp((-2 * Math.PI * hz) / RATE_HZ);
  for (let i = 0; i < tilt; i++) {
    let y = 0;
    x = x.map((v) => (y += share * (v - y)));
  }
  return x;
}

/** -3 dB an octave: Kellet's sum of first-order filters, economy form, ± 0.5 dB (public domain; from memory). */
function pink(seed) {
  let [a, b, c] = [0, 0, 0];
  return coloured(seed, 0).map((w) => {
    a = 0.99765 * a + w * 0.099046;
    b = 0.963 * b + w * 0.2965164;
    c = 0.57 * c + w * 1.0526913;
    return a + b + c + w * 0.1848;
  });
}

const rms = (x) => Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / x.length);
const withLines = (x, lines) => {
  const level = rms(x);
  return x.map(
    (v, n) =>
      v + lines.reduce((sum, [hz, share], i) => sum + level * share * Math.SQRT2 * Math.sin((2 * Math.PI * hz * n) / RATE_HZ + i), 0),
  );
};

/** Steady within 6.5 dB (90th against 10th percentile of 100 ms), of packages that nothing was trained or tuned on (scorched3d-data, searchandrescue-data: GPL-2+), and made ones. */
export const noises = {
  rain: sample('scorched3d-data', 'rain.wav'),
  city: sample('scorched3d-data', 'citysounds.wav'),
  'jet, afar': sample('scorched3d-data', 't38.wav'),
  'light aircraft': sample('scorched3d-data', 'cessna.wav'),
  'helicopter, inside': sample('searchandrescue-data', 'helicopter_engine_inside.wav'),
  'jet, inside': sample('searchandrescue-data', 'jet_engine_inside.wav'),
  'another helicopter': sample('searchandrescue-data', 'hh65/engine_inside.wav'),
  white: () => coloured(101, 0),
  pink: () => pink(102),
  brown: () => coloured(103, 1, 60),
  'fan with blade tones': () =>
    withLines(coloured(104, 1, 250), [
      [118, 0.8],
      [236, 0.5],
      [354, 0.25],
      [472, 0.15],
    ]),
  'hum with harmonics': () =>
    withLines(
      coloured(105, 0),
      Array.from({ length: 10 }, (_, i) => [50 * (i + 1), 1.2 / (i + 1)]),
    ),
  'pink, level drifting by ± 4 dB': () => pink(106).map((v, n) => v * 10 ** ((4 * Math.sin((2 * Math.PI * 0.11 * n) / RATE_HZ)) / 20)),
};
export const isReal = (noise) => Object.keys(noises).indexOf(noise) < 7;

const cache = new Map();
const made = (make) => cache.get(make) ?? cache.set(make, make()).get(make);

/** Talk after a lead of nothing, and noise under both, at an SNR over the frames where somebody talks. */
export function cell(voice, noise, snrDb) {
  const talk = made(voices[voice]);
  const length = (SECONDS + LEAD_SECONDS) * RATE_HZ;
  const lead = LEAD_SECONDS * RATE_HZ;
  const clean = new Float32Array(length);
  clean.set(talk.subarray(0, SECONDS * RATE_HZ), lead);
  const source = made(noises[noise]);
  const hiss = Float32Array.from({ length }, (_, n) => source[n % source.length]);
  const loud = clean.filter((v) => Math.abs(v) > 0.01);
  const scale = (rms(loud) * 10 ** (-snrDb / 20)) / rms(hiss);
  for (let n = 0; n < length; n++) hiss[n] *= scale;
  return { clean, noise: hiss, heard: clean.map((v, n) => v + hiss[n]), lead, rate: RATE_HZ };
}
