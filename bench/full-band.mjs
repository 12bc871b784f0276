// Voices of the full band, read once and kept: short recordings of many people in rooms of their own, which nothing is trained on.
// tuxpaint-stamps-default (GPL and free licences by file), klettres-data, ktuberling-data (GPL-2+). Fetched, never shipped. What a
// detector is tuned on is one half of the people, what is told of it the other.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { folder } from './sounds.mjs';
import { fetchPackage, joined, numbers } from './speech.mjs';

const RATE_HZ = 48000;
const MOST_FILES = 60;
const stamps = (language) => ({ package: 'tuxpaint-stamps-default', at: 'usr/share/tuxpaint/stamps', ends: `_desc_${language}.ogg` });
const letters = (language) => ({ package: 'klettres-data', at: `usr/share/klettres/${language}`, ends: '.ogg' });
const potatoes = (language) => ({ package: 'ktuberling-data', at: `usr/share/ktuberling/sounds/${language}`, ends: '.ogg' });

/** Of each half other people, other languages. */
export const people = {
  told: {
    'Catalan, stamps': stamps('ca'),
    'Danish, stamps': stamps('da'),
    'French, stamps': stamps('fr'),
    'German, letters': letters('de'),
    'Romanian, stamps': stamps('ro'),
  },
  tuned: {
    'Lithuanian, stamps': stamps('lt'),
    'Czech, letters': letters('cs'),
    'German, potatoes': potatoes('de'),
    'Hungarian, letters': letters('hu'),
    'Italian, letters': letters('it'),
    'British, letters': letters('en_GB'),
    'Portuguese, letters': letters('pt_BR'),
    'Ukrainian, letters': letters('uk'),
    'Russian, stamps': stamps('ru'),
    'Spanish, stamps': stamps('es'),
    'Greek, stamps': stamps('el'),
    'Bulgarian, stamps': stamps('bg'),
    'Belarusian, stamps': stamps('be'),
    'French, letters': letters('fr'),
    'Russian, letters': letters('ru'),
    'Spanish, letters': letters('es'),
    'English, letters': letters('en'),
    'Low German, letters': letters('nds'),
    'Tswana, letters': letters('tn'),
  },
};

const floats = (bytes) => new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length - (bytes.length % 4)));

function* filesIn(at) {
  for (const entry of readdirSync(at, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1)))
    if (entry.isDirectory()) yield* filesIn(join(at, entry.name));
    else yield join(at, entry.name);
}

const db = (power) => 10 * Math.log10(power + 1e-12);
function frameLevels(x, frames) {
  const levels = [];
  for (let at = 0; at + frames <= x.length; at += frames) {
    let sum = 0;
    for (let n = at; n < at + frames; n++) sum += x[n] * x[n];
    levels.push(db(sum / frames));
  }
  return levels;
}

/** Seconds of one person at 48 kHz: the cleanest recordings one after the other, pauses between of so many dBFS of made noise; -20 dBFS where there is talk. */
export function fullBand(person, seconds, floorDbfs = -85) {
  const kept = join(folder, `full-${person.package}-${person.at.split('/').pop()}-${person.ends.replace(/\W/g, '')}-${seconds}.f32`);
  if (!existsSync(kept)) {
    const unpacked = fetchPackage(person.package);
    const all = [...filesIn(join(unpacked, person.at))].filter((path) => path.endsWith(person.ends));
    // Spread over all of them, and of these the cleanest.
    const step = Math.max(1, Math.floor(all.length / MOST_FILES));
    const heard = all
      .filter((_, i) => i % step === 0)
      .slice(0, MOST_FILES)
      .map((path) =>
        floats(
          execFileSync('ffmpeg', ['-nostdin', '-v', 'quiet', '-i', path, '-ac', '1', '-af', `aresample=${RATE_HZ}`, '-f', 'f32le', '-'], {
            maxBuffer: 1 << 28,
          }),
        ),
      )
      .map((x) => ({ x, levels: frameLevels(x, 960).sort((a, b) => a - b) }))
      .map(({ x, levels }) => ({
        x,
        top: levels[Math.floor(levels.length * 0.95)] ?? -120,
        floor: levels[Math.floor(levels.length * 0.08)] ?? 0,
      }))
      .filter(({ x, top }) => x.length > 0.4 * RATE_HZ && top > -50 && x.filter((v) => Math.abs(v) > 0.99).length < 4)
      .sort((a, b) => b.top - b.floor - (a.top - a.floor));
    const parts = [];
    let length = 0;
    for (const { x, top } of heard) {
      let power = 0;
      let count = 0;
      for (const v of x)
        if (Math.abs(v) > 10 ** ((top - 12) / 20)) {
          power += v * v;
          count++;
        }
      const gain = 0.15 / Math.sqrt(power / count);
      const edge = 480;
      parts.push(
        x.map((v, n) => v * gain * Math.min(1, n / edge, (x.length - n) / edge)),
        new Float32Array(Math.round((0.15 + 0.25 * (parts.length % 3)) * RATE_HZ)),
      );
      length += parts.at(-2).length + parts.at(-1).length;
      if (length > seconds * RATE_HZ) break;
    }
    writeFileSync(kept, Buffer.from(joined(parts).slice(0, seconds * RATE_HZ).buffer));
  }
  const x = floats(readFileSync(kept));
  const next = numbers(71);
  const scale = 10 ** (floorDbfs / 20);
  return x.map((v) => v + scale * (next() + next() + next()));
}
