// Twenty made rooms for the sound check: five people, floors from -72 to -48 dBFS of real and made
// noise, a tail of the room, a real keyboard (bucklespring-data, GPL-2: fetched, never shipped) or a made one at what a desk brings.
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { fullBand, people } from './full-band.mjs';
import { noises, RATE_HZ as NOISE_RATE_HZ } from './noise-cells.mjs';
import { resampled } from './measures.mjs';
import { fetchPackage, numbers } from './speech.mjs';

export const RATE_HZ = 48000;
const floats = (bytes) => new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length - (bytes.length % 4)));
export const rms = (x, from = 0, to = x.length) => Math.sqrt(x.subarray(from, to).reduce((sum, v) => sum + v * v, 0) / (to - from));
const gain = (db) => 10 ** (db / 20);

/** Strokes of the keyboard, each at a peak of 1, the loudest 150 ms of it. */
let strokes;
function keyStrokes() {
  if (strokes) return strokes;
  const unpacked = fetchPackage('bucklespring-data');
  const files = readdirSync(unpacked, { recursive: true })
    .filter((file) => file.endsWith('.wav'))
    .sort();
  return (strokes = files
    .filter((_, i) => i % 3 === 0)
    .map((file) =>
      floats(
        execFileSync(
          'ffmpeg',
          ['-nostdin', '-v', 'error', '-i', join(unpacked, file), '-ac', '1', '-ar', String(RATE_HZ), '-f', 'f32le', '-'],
          {
            maxBuffer: 1 << 26,
          },
        ),
      ),
    )
    .filter((x) => x.length > 2400)
    .map((x) => {
      let at = 0;
      for (let n = 0; n < x.length; n++) if (Math.abs(x[n]) > Math.abs(x[at])) at = n;
      const part = x.slice(Math.max(0, at - 480), at + 7200);
      const peak = Math.abs(x[at]);
      return part.map((v, n) => (v / peak) * Math.min(1, (part.length - n) / 1200));
    }));
}

/** Made keys of another kind: a thump and a click, each of its own. */
function madeStroke(next) {
  const thump = 180 + 220 * (next() + 1);
  const bright = 2500 + 1500 * (next() + 1);
  return Float32Array.from({ length: 4800 }, (_, n) => {
    const t = n / RATE_HZ;
    return (
      // A desk is damped: a resonance of a quality of 4.
      0.5 * Math.sin(2 * Math.PI * thump * t) * Math.exp((-t * Math.PI * thump) / 4) +
      (0.6 * Math.sin(2 * Math.PI * bright * t) + 0.5 * next()) * Math.exp(-t / 0.004)
    );
  });
}

/** Seconds of typing, strokes peaking around `peakDbfs`, ± 4 dB. */
export function typing(seconds, peakDbfs, seed, real = true) {
  const next = numbers(seed);
  const out = new Float32Array(seconds * RATE_HZ);
  const kept = real ? keyStrokes() : Array.from({ length: 12 }, () => madeStroke(next));
  for (let at = 0.3 * RATE_HZ; at < out.length - 9600;) {
    const stroke = kept[Math.floor(((next() + 1) / 2) * kept.length)];
    const level = gain(peakDbfs + 4 * next());
    for (let n = 0; n < stroke.length && at + n < out.length; n++) out[Math.round(at) + n] += level * stroke[n];
    // Words of keys, and moments to think.
    at += (next() > 0.8 ? 0.7 + 0.5 * next() : 0.17 + 0.08 * next()) * RATE_HZ;
  }
  return out;
}

/** A room's tail: decaying noise, its direct sound above it by so much. */
function inRoom(x, decaySeconds, directDb, seed) {
  if (decaySeconds === 0) return x;
  const next = numbers(seed);
  const length = Math.round(Math.min(0.4, decaySeconds) * RATE_HZ);
  const tail = Float32Array.from({ length }, (_, n) => (n < 200 ? 0 : next() * 10 ** ((-3 * n) / (decaySeconds * RATE_HZ))));
  const scale = gain(-directDb) / Math.sqrt(tail.reduce((sum, v) => sum + v * v, 0));
  // Sparse: a tap every 3 ms or so, which is dense enough for a level.
  const taps = [];
  for (let n = 200; n < length; n += 60 + Math.floor(90 * (next() + 1))) taps.push([n, tail[n] * scale * 12]);
  const out = x.slice();
  for (const [delay, level] of taps) for (let n = delay; n < out.length; n++) out[n] += level * x[n - delay];
  return out;
}

const kept = new Map();
const once = (key, make) => kept.get(key) ?? kept.set(key, make()).get(key);

function floorNoise(kind, dbfs, seconds, seed) {
  const source = once(`noise ${kind}`, () => resampled(noises[kind](), NOISE_RATE_HZ, RATE_HZ));
  const from = Math.floor(((numbers(seed)() + 1) / 2) * Math.max(0, source.length - seconds * RATE_HZ));
  const x = Float32Array.from({ length: seconds * RATE_HZ }, (_, n) => source[(from + n) % source.length]);
  // The recording has something up to the top of its band: hiss of the preamplifier 15 dB below.
  const next = numbers(seed + 1);
  const level = rms(x);
  const scale = gain(dbfs) / level;
  return x.map((v) => scale * (v + 0.18 * level * (next() + next() + next())));
}

/** Whose recordings have a room of their own under -40 dBFS. Thresholds were tried on some; what is told is of others (`EUPHONOS_PEOPLE=tried` for those). */
const OTHERS = ['Lithuanian, stamps', 'Italian, letters', 'Ukrainian, letters', 'Greek, stamps', 'Portuguese, letters'];
const tried = process.env.EUPHONOS_PEOPLE === 'tried';
const SPEAKERS = tried ? { all: people.told, names: Object.keys(people.told) } : { all: people.tuned, names: OTHERS };

const ROOM_NOISES = tried
  ? ['brown', 'pink', 'rain', 'fan with blade tones', 'hum with harmonics', 'jet, inside', 'white', 'city']
  : ['light aircraft', 'jet, afar', 'helicopter, inside', 'pink', 'hum with harmonics', 'another helicopter', 'brown', 'rain'];

/** One of twenty: three listens, and then other words, silence and typing, to judge by. */
export function room(index) {
  const { all, names } = SPEAKERS;
  const name = names[index % names.length];
  const talkDbfs = -20 - 2 * (index % 4);
  const floorDbfs = -72 + ((index * 7) % 25);
  const kind = ROOM_NOISES[index % ROOM_NOISES.length];
  const keysDb = -talkDbfs + 6 + ((index * 5) % 17);
  const seed = 1000 + 37 * index;
  const talk = once(name, () => fullBand(all[name], 80, -110));
  const level = gain(talkDbfs + 16.5);
  const decay = [0, 0.25, 0.4, 0.6][index % 4];
  const part = (from, to) =>
    inRoom(
      talk.slice(from * RATE_HZ, to * RATE_HZ).map((v) => level * v),
      decay,
      9,
      seed,
    );
  const noise = (seconds, more) => floorNoise(kind, floorDbfs, seconds, seed + more);
  const mixed = (a, b) => a.map((v, n) => v + (b[n] ?? 0));
  const keys = (seconds, more) => typing(seconds, -keysDb, seed + more, index % 3 !== 2);
  const spans = { silence: [0, 6], usual: [6, 20], speech: [20, 62] };
  const length = 62;
  const words = new Float32Array(length * RATE_HZ);
  const dry = new Float32Array(length * RATE_HZ);
  words.set(part(28, 70), 20 * RATE_HZ);
  dry.set(
    talk.slice(28 * RATE_HZ, 70 * RATE_HZ).map((v) => level * v),
    20 * RATE_HZ,
  );
  const heard = mixed(words, noise(length, 19));
  const stroked = keys(14, 17);
  for (let n = 0; n < stroked.length; n++) heard[6 * RATE_HZ + n] += stroked[n];
  return {
    name: `${name} at ${talkDbfs} dBFS, ${kind} at ${floorDbfs} dBFS, keys at ${-keysDb} dBFS, ${decay} s`,
    listens: { silence: noise(5, 0), usual: mixed(noise(8, 3), keys(8, 5)), speech: mixed(part(0, 24), noise(24, 7)) },
    judged: { heard, dry, spans },
    floorDbfs,
  };
}
