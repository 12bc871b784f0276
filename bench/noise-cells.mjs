// Speech in noise for the noise bench: talkers that the speech model never heard, real steady noises (fetched, not
// shipped: lugaru-data and megaglest-data, CC-BY-SA 3.0) and made ones, at 24 kHz.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { folder } from './sounds.mjs';
import { fetchPackage, joined, numbers, speech, talkers } from './speech.mjs';

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
      [
        '-nostdin',
        '-v',
        'error',
        '-i',
        path,
        '-ac',
        '1',
        '-af',
        `aresample=16000:resampler=soxr,aresample=${RATE_HZ}:resampler=soxr`,
        '-f',
        'f32le',
        '-',
      ],
      { maxBuffer: 1 << 28 },
    ),
  );

/** A reader of public-domain prose (pocketsphinx-testdata), read sentence by sentence. */
function reader() {
  const path = join(folder, 'reader.f32');
  if (!existsSync(path)) {
    const at = join(fetchPackage('pocketsphinx-testdata'), 'usr/share/pocketsphinx/test/data/librivox');
    const whole = joined(
      readdirSync(at)
        .filter((name) => name.endsWith('.wav'))
        .sort()
        .map((name) => decoded(join(at, name))),
    );
    writeFileSync(path, Buffer.from(whole.buffer));
  }
  return floats(readFileSync(path));
}

function levelled(x) {
  const loud = x.filter((v) => Math.abs(v) > 0.01);
  const gain = 0.1 / Math.sqrt(loud.reduce((sum, v) => sum + v * v, 0) / loud.length);
  return x.map((v) => v * gain);
}

export const voices = {
  'English woman': () =>
    speech(
      talkers.find(({ voice }) => voice.startsWith('en_')),
      SECONDS,
      RATE_HZ,
      30,
    ),
  'Spanish woman': () =>
    speech({ name: 'Spanish woman', package: 'asterisk-core-sounds-es-g722', voice: 'es_MX_f_Allison' }, SECONDS, RATE_HZ, 60),
  reader: () => levelled(reader().subarray(RATE_HZ, (1 + SECONDS) * RATE_HZ)),
};

const sample = (name, path) => () => {
  const kept = join(folder, `noise-${path.split('/').slice(-3).join('-')}.f32`);
  if (!existsSync(kept)) writeFileSync(kept, Buffer.from(decoded(join(fetchPackage(name), path)).buffer));
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

const games = { lugaru: 'usr/share/games/lugaru/Sounds/', megaglest: 'usr/share/games/megaglest/tilesets/' };
export const noises = {
  'wind, hills': sample('lugaru-data', `${games.lugaru}Wind.ogg`),
  'air, desert': sample('lugaru-data', `${games.lugaru}DesertAmbient.ogg`),
  'wind, winter': sample('megaglest-data', `${games.megaglest}winter/sounds/wind.ogg`),
  'rain, steady': sample('megaglest-data', `${games.megaglest}mediterran/sounds/rain.ogg`),
  'rain, heavy': sample('megaglest-data', `${games.megaglest}desert2/sounds/rain.wav`),
  'night, crickets': sample('megaglest-data', `${games.megaglest}desert2/sounds/night.ogg`),
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
export const isReal = (noise) => Object.keys(noises).indexOf(noise) < 6;

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

const TAPS = 63;
const MIDDLE = (TAPS - 1) / 2;
/** Half-band low-pass, a sinc under a Blackman window. */
const halfBand = Float64Array.from({ length: TAPS }, (_, i) => {
  const t = i - MIDDLE;
  const turn = (2 * Math.PI * i) / (TAPS - 1);
  return (t === 0 ? 0.5 : Math.sin((Math.PI * t) / 2) / (Math.PI * t)) * (0.42 - 0.5 * Math.cos(turn) + 0.08 * Math.cos(2 * turn));
});

/** At twice the rate: for what listens at 48 kHz. */
export function doubled(x) {
  return Float32Array.from({ length: 2 * x.length }, (_, n) => {
    let sum = 0;
    for (let i = (n + MIDDLE) & 1; i < TAPS; i += 2) sum += halfBand[i] * (x[(n + MIDDLE - i) >> 1] ?? 0);
    return 2 * sum;
  });
}

/** Every second sample of a sound that was doubled and holds nothing new above. */
export const halved = (x) => Float32Array.from({ length: x.length >> 1 }, (_, n) => x[2 * n]);
