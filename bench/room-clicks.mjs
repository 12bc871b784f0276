// Clicks in real rooms: full-band talk of people that nothing was tuned on, over a room's floor; ticks, mouth clicks, crackle. A click
// counts when it stands out as an ear hears it: 6 dB and more above the loudest fiftieth of what its own band holds within 20 ms.
import { treatmentOf, defaultTreatment } from '../packages/dsp/dist/index.js';
import { sdr } from './known-faults.mjs';
import { fullBand, people } from './full-band.mjs';
import { fftOf, kernels } from './measures.mjs';
import { numbers } from './speech.mjs';

const RATE_HZ = 48000;
const SECONDS = 24;
const FLOORS_DBFS = [-75, -65, -55];
const STANDS_OUT_DB = 6;
const SIZE = 64;
const HOP = 16;

const kinds = {
  ticks: { hz: [2700, 3800, 10000], ms: [0.6, 1.3], underDb: [8, 14] },
  mouth: { hz: [1800, 2600, 4200, 6000], ms: [1, 10], underDb: [8, 24] },
  crackle: { hz: [5000, 8000, 12000], ms: [0.08, 0.3], underDb: [4, 20] },
};

/** Level of a band of a sound, frame by frame from `from` on, dB. */
function bandLevels(x, hz, from, to) {
  const fft = fftOf(SIZE);
  const bin = Math.round((hz * SIZE) / RATE_HZ);
  const levels = [];
  for (let at = from; at < to; at += HOP) {
    for (let n = 0; n < SIZE; n++) fft.frame[n] = (x[at + n - SIZE / 2] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / SIZE));
    fft.forward();
    let sum = 1e-12;
    for (let k = bin - 1; k <= bin + 1; k++) sum += fft.re[k] ** 2 + fft.im[k] ** 2;
    levels.push(10 * Math.log10(sum));
  }
  return levels;
}

/** How far a click stands above the loudest fiftieth of its band within 20 ms. */
function standsOut(clean, click, at, hz) {
  const around = bandLevels(clean, hz, at - 960, at + 960).sort((a, b) => a - b);
  const whole = new Float32Array(clean.length > 0 ? 2000 : 0);
  whole.set(click.subarray(0, Math.min(1000, click.length)), 1000);
  return (
    Math.max(...bandLevels(whole, hz, 1000 - SIZE / 2, 1000 + Math.min(click.length, 480) + SIZE / 2)) -
    around[Math.floor(0.98 * around.length)]
  );
}

function withClicks(clean, kind, seed) {
  const { hz, ms, underDb } = kinds[kind];
  const next = numbers(seed);
  const between = ([low, high]) => low + ((next() + 1) / 2) * (high - low);
  const heard = Float32Array.from(clean);
  const clicks = [];
  for (let i = 0; i < SECONDS; i++) {
    const at = Math.round((i + between([0.2, 0.8])) * RATE_HZ);
    if (at < 4000 || at > clean.length - 4000) continue;
    const length = Math.round((between(ms) / 1000) * RATE_HZ);
    const ring = hz[Math.floor(between([0, hz.length - 1e-6]))];
    let peak = 0;
    for (let n = at - 9600; n < at + 9600; n++) peak = Math.max(peak, Math.abs(clean[n] ?? 0));
    const level = Math.max(peak, 0.02) * 10 ** (-between(underDb) / 20);
    const phase = 3 * next();
    const click = Float32Array.from(
      { length },
      (_, n) => level * Math.exp((-4 * n) / length) * Math.cos((2 * Math.PI * ring * n) / RATE_HZ + phase),
    );
    const outDb = standsOut(clean, click, at, ring);
    for (let n = 0; n < length; n++) heard[at + n] += click[n];
    clicks.push({ at, end: at + length, outDb });
  }
  return { heard, clicks };
}

export function treat(x, settings = {}) {
  const events = [];
  const processor = treatmentOf('clicks').create(
    { sampleRateHz: RATE_HZ, channels: 1, kernels, onEvent: (event) => events.push(event) },
    { ...defaultTreatment('clicks'), ...settings },
  );
  const given = new Float32Array(x.length + processor.latencyFrames);
  given.set(x);
  const before = process.cpuUsage();
  for (let at = 0; at < given.length; at += 4096)
    processor.process([given.subarray(at, at + 4096)], [given.subarray(at, at + 4096)], Math.min(4096, given.length - at));
  return { out: given.subarray(processor.latencyFrames), events, speed: x.length / RATE_HZ / (process.cpuUsage(before).user / 1e6) };
}

export function measure(half, settings) {
  const rows = [];
  const near = 0.0015 * RATE_HZ;
  for (const [name, person] of Object.entries(people[half]))
    for (const floor of FLOORS_DBFS) {
      const clean = fullBand(person, SECONDS, floor);
      if (clean.length < SECONDS * RATE_HZ * 0.4) continue;
      const untouched = treat(clean, settings);
      const seconds = clean.length / RATE_HZ;
      const row = { name, floor, seconds, clean: untouched.events.length, kinds: {} };
      for (const kind of Object.keys(kinds)) {
        const { heard, clicks } = withClicks(clean, kind, 11);
        const { out, events, speed } = treat(heard, settings);
        const hit = ({ at, end }) => events.some((event) => event.startFrame < end + near && event.endFrame > at - near);
        const audible = clicks.filter(({ outDb }) => outDb >= STANDS_OUT_DB);
        const found = audible.filter(hit);
        const wrong = events.filter(
          (event) => !clicks.some(({ at, end }) => event.startFrame < end + near && event.endFrame > at - near),
        ).length;
        const closer = found.map(({ at, end }) => sdr(clean, out, at, end) - sdr(clean, heard, at, end));
        row.kinds[kind] = {
          put: clicks.length,
          audible: audible.length,
          found: found.length,
          wrong,
          right: events.length - wrong,
          closer,
          speed,
        };
      }
      rows.push(row);
    }
  return rows;
}

/** Recordings that tick by themselves, more than once a second: told apart, since what is found there may well be true. */
const TICKING = 10;

export async function run(half = 'told', settings = {}) {
  const rows = measure(half, settings);
  const inTen = (row) => (row.clean / row.seconds) * 10;
  const ticking = new Set(rows.filter((row) => inTen(row) > TICKING).map(({ name }) => name));
  const quiet = rows.filter(({ name }) => !ticking.has(name));
  const sum = (list, pick) => list.reduce((all, row) => all + pick(row), 0);
  const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
  const of = (kind, what) => sum(rows, ({ kinds: by }) => by[kind][what]);
  const all = (list, what) => Object.keys(kinds).reduce((total, kind) => total + sum(list, ({ kinds: by }) => by[kind][what]), 0);
  const precision = (list) => all(list, 'right') / (all(list, 'right') + all(list, 'wrong'));
  return [
    ...Object.keys(kinds).map((kind) => ({
      what: `clicks in rooms, ${kind}: found of ${of(kind, 'audible')} that stand out`,
      value: (100 * of(kind, 'found')) / of(kind, 'audible'),
      limit: 90,
      unit: ' %',
      atLeast: true,
    })),
    {
      what: `clicks in rooms: precision, without ${[...ticking].join(', ') || 'nobody'}`,
      value: precision(quiet),
      limit: 0.9,
      atLeast: true,
    },
    { what: 'clicks in rooms: precision, everybody', value: precision(rows) },
    ...[...new Set(rows.map(({ name }) => name))].map((name) => ({
      what: `clicks in rooms, clean talk, ${name}: told in 10 s, the worst of three floors`,
      value: Math.max(...rows.filter((row) => row.name === name).map(inTen)),
      limit: 2,
    })),
    ...Object.keys(kinds).map((kind) => ({
      what: `clicks in rooms, ${kind}: closer to the clean sound, median`,
      value: median(rows.flatMap((row) => row.kinds[kind].closer)),
      limit: 12,
      unit: ' dB',
      atLeast: true,
    })),
    {
      what: 'clicks in rooms: speed',
      value: median(rows.flatMap((row) => Object.values(row.kinds).map(({ speed }) => speed))),
      limit: 100,
      unit: ' ×',
      atLeast: true,
    },
  ];
}
