// How well the treatments mend known faults in real speech, and how fast: the tables of docs/quality.md.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultTreatment, treatmentOf } from '../packages/dsp/dist/index.js';
import { root } from '../scripts/lib/system.mjs';
import { clipped, db, inRoom, power, sdr, talk, withClicks, withHum, withNoise, withPlosives } from './known-faults.mjs';
import { speech, talkers } from './speech.mjs';

const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const RATE_HZ = 48000;
const SECONDS = 30;

const warm = new Set();
const WARM_SECONDS = 10;

/** A sound through one treatment, aligned to it; with what was mended, and how many times real time it took once compiled. */
export function treat(kind, settings, heard, rate = RATE_HZ) {
  if (!warm.has(kind)) {
    warm.add(kind);
    treat(kind, settings, heard.subarray(0, WARM_SECONDS * rate), rate);
  }
  const events = [];
  const values = { ...defaultTreatment(kind), ...settings };
  const processor = treatmentOf(kind).create({ sampleRateHz: rate, channels: 1, kernels, onEvent: (event) => events.push(event) }, values);
  const out = new Float32Array(heard.length + processor.latencyFrames);
  const block = new Float32Array(4096);
  const before = process.cpuUsage();
  for (let from = 0; from < out.length; from += 4096) {
    const count = Math.min(4096, out.length - from);
    block.fill(0);
    block.set(heard.subarray(from, Math.min(heard.length, from + count)));
    processor.process([block], [out.subarray(from, from + count)], count);
  }
  const { user } = process.cpuUsage(before);
  return { out: out.subarray(processor.latencyFrames), events, speed: heard.length / rate / (user / 1e6) };
}

const mean = (values) => values.reduce((sum, value) => sum + value, 0) / values.length;

/** Level of a line, by correlation over whole frames of 1 s. */
function lineDb(x, rate, hz, from = 0) {
  let most = 0;
  let count = 0;
  for (let at = from; at + rate <= x.length; at += rate) {
    let re = 0,
      im = 0;
    for (let n = 0; n < rate; n++) {
      const w = 1 - Math.cos((2 * Math.PI * n) / rate);
      re += w * x[at + n] * Math.cos((2 * Math.PI * hz * (at + n)) / rate);
      im += w * x[at + n] * Math.sin((2 * Math.PI * hz * (at + n)) / rate);
    }
    most += ((re * re + im * im) * 2) / rate / rate;
    count++;
  }
  return db(most / count);
}

function hum() {
  const rows = [];
  for (const [i, talker] of talkers.entries()) {
    const clean = withNoise(speech(talker, SECONDS, RATE_HZ), -70, 3);
    const base = [50, 60, 49.9][i];
    const heard = withHum(clean, RATE_HZ, base, 8, -40);
    for (const kind of ['hum-lines', 'hum-notch']) {
      const { out, speed } = treat(kind, { baseHz: base, harmonics: 8, ...(kind === 'hum-notch' ? { widthHz: 1 } : {}) }, heard);
      const rest = out.map((x, n) => x - clean[n]);
      const skip = 2 * RATE_HZ;
      rows.push({
        kind,
        restDb: mean(Array.from({ length: 8 }, (_, h) => lineDb(rest, RATE_HZ, base * (h + 1), skip))),
        distortionDb: sdr(clean, out, skip),
        speed,
      });
    }
  }
  const of = (kind, name) => mean(rows.filter((row) => row.kind === kind).map((row) => row[name]));
  return [
    {
      what: 'hum-lines: 8 lines 30 dB above a floor of -70 dBFS, what is left of a line',
      value: of('hum-lines', 'restDb'),
      limit: -70,
      unit: ' dBFS',
    },
    {
      what: 'hum-lines: speech over all that differs from it',
      value: Math.min(...rows.filter((r) => r.kind === 'hum-lines').map((r) => r.distortionDb)),
      limit: 25,
      unit: ' dB',
      atLeast: true,
    },
    { what: 'hum-lines: speed', value: of('hum-lines', 'speed'), limit: 100, unit: ' ×', atLeast: true },
    { what: 'hum-notch, 1 Hz wide: what is left of a line', value: of('hum-notch', 'restDb'), unit: ' dBFS' },
    { what: 'hum-notch, 1 Hz wide: speech over all that differs from it', value: of('hum-notch', 'distortionDb'), unit: ' dB' },
  ];
}

function clicks() {
  let put = 0,
    found = 0,
    wrong = 0,
    seconds = 0,
    errorBefore = 0,
    errorAfter = 0;
  const closer = [],
    speeds = [],
    cleanWrong = [];
  for (const talker of talkers) {
    const clean = speech(talker, SECONDS, RATE_HZ);
    const { heard, clicks: list } = withClicks(clean, RATE_HZ, 60);
    const { out, events, speed } = treat('clicks', {}, heard);
    const near = 0.003 * RATE_HZ;
    for (const { at, end } of list) {
      put++;
      if (!events.some((event) => event.startFrame < end + near && event.endFrame > at - near)) continue;
      found++;
      closer.push(sdr(clean, out, at, end) - sdr(clean, heard, at, end));
      for (let n = at; n < end; n++) {
        errorBefore += (heard[n] - clean[n]) ** 2;
        errorAfter += (out[n] - clean[n]) ** 2;
      }
    }
    wrong += events.filter((event) => !list.some(({ at, end }) => event.startFrame < end + near && event.endFrame > at - near)).length;
    cleanWrong.push((treat('clicks', {}, clean).events.length / SECONDS) * 10);
    seconds += SECONDS;
    speeds.push(speed);
  }
  closer.sort((a, b) => a - b);
  return [
    { what: `clicks: found of ${put}`, value: (100 * found) / put, limit: 95, unit: ' %', atLeast: true },
    { what: 'clicks: false ones in 10 s', value: (wrong / seconds) * 10, limit: 1 },
    { what: 'clicks: in clean speech, in 10 s, the worst talker', value: Math.max(...cleanWrong), limit: 1 },
    { what: 'clicks: what differs from the clean sound where they were, less by', value: db(errorBefore) - db(errorAfter), unit: ' dB' },
    { what: 'clicks: closer to the clean sound where they were, mean', value: mean(closer), limit: 20, unit: ' dB', atLeast: true },
    { what: 'clicks: the worst tenth', value: closer[Math.floor(closer.length / 10)], unit: ' dB' },
    { what: 'clicks: speed', value: Math.min(...speeds), limit: 100, unit: ' ×', atLeast: true },
  ];
}

function clipping() {
  return [0.2, 0.4, 0.6, 0.8].flatMap((share) => {
    const rows = talkers.map((talker) => {
      const clean = speech(talker, SECONDS, RATE_HZ);
      const { heard } = clipped(clean, share);
      const [{ out, speed }, again] = [treat('clipping', {}, heard), treat('clipping', {}, heard)];
      return { better: sdr(clean, out) - sdr(clean, heard), speed: Math.max(speed, again.speed) };
    });
    const at = `clipping at ${share * 100} % of the peak`;
    return [
      { what: `${at}: SDR better by`, value: mean(rows.map((row) => row.better)), limit: 8, unit: ' dB', atLeast: true },
      {
        what: `${at}: speed, the slowest talker, the better of two runs`,
        value: Math.min(...rows.map((row) => row.speed)),
        limit: 100,
        unit: ' ×',
        atLeast: true,
      },
    ];
  });
}

function plosives() {
  const lowered = [],
    elsewhere = [],
    speeds = [],
    cleanCount = [];
  let put = 0,
    found = 0,
    wrong = 0;
  for (const talker of talkers) {
    const clean = speech(talker, SECONDS, RATE_HZ);
    const { heard, bursts } = withPlosives(clean, RATE_HZ);
    const { out, events, speed } = treat('plosives', {}, heard);
    const low = (x) =>
      treat(
        'tone',
        {
          bands: [
            { shape: 'low-pass', frequencyHz: 110, gainDb: 0, q: 0.54 },
            { shape: 'low-pass', frequencyHz: 110, gainDb: 0, q: 1.31 },
          ],
        },
        x,
      ).out;
    const burst = low(heard.map((x, n) => x - clean[n]));
    const left = low(out.map((x, n) => x - clean[n]));
    for (const { at, end } of bursts) {
      put++;
      if (events.some((event) => event.startFrame < end && event.endFrame > at)) found++;
      lowered.push(db(power(burst, at, end)) - db(power(left, at, end)));
    }
    wrong += events.filter((event) => !bursts.some(({ at, end }) => event.startFrame < end && event.endFrame > at)).length;
    cleanCount.push(treat('plosives', {}, clean).events.length);
    // Elsewhere: whole steps of talk that no burst is near.
    const { step, is } = talk(clean, RATE_HZ);
    for (let i = 0; i < is.length; i++) {
      const [from, to] = [i * step, (i + 1) * step];
      if (is[i] && to <= clean.length && !bursts.some(({ at, end }) => from < end + 0.15 * RATE_HZ && to > at - 0.1 * RATE_HZ))
        elsewhere.push(Math.abs(db(power(out, from, to)) - db(power(heard, from, to))));
    }
    speeds.push(speed);
  }
  lowered.sort((a, b) => a - b);
  elsewhere.sort((a, b) => a - b);
  return [
    { what: `plosives: found of ${put}`, value: (100 * found) / put, limit: 90, unit: ' %', atLeast: true },
    { what: 'plosives: false ones', value: wrong },
    { what: 'plosives: in clean speech, in 90 s', value: cleanCount.reduce((a, b) => a + b, 0) },
    { what: 'plosives: lowered by, mean', value: mean(lowered), limit: 12, unit: ' dB', atLeast: true },
    { what: 'plosives: the worst tenth', value: lowered[Math.floor(lowered.length / 10)], unit: ' dB' },
    {
      what: 'plosives: change of talk elsewhere, 99 % of steps',
      value: elsewhere[Math.floor(elsewhere.length * 0.99)],
      limit: 0.5,
      unit: ' dB',
    },
    { what: 'plosives: speed', value: Math.min(...speeds), limit: 100, unit: ' ×', atLeast: true },
  ];
}

function room() {
  const better = [],
    cost = [],
    speeds = [];
  for (const talker of talkers) {
    const clean = speech(talker, SECONDS, RATE_HZ);
    const { late } = inRoom(clean, RATE_HZ, 0.8, -6);
    const heard = clean.map((x, n) => x + late[n]);
    const { out, speed } = treat('room', { decaySeconds: 0.8 }, heard);
    speeds.push(speed);
    // Tails: the 150 ms after talk stops, where there is only room.
    const { step, is } = talk(clean, RATE_HZ);
    let before = 0,
      after = 0,
      said = 0,
      saidAfter = 0;
    for (let i = 2; i < is.length - 3; i++) {
      if (is[i - 1] && !is[i] && !is[i + 1] && !is[i + 2]) {
        before += power(heard, (i + 1) * step, (i + 3) * step);
        after += power(out, (i + 1) * step, (i + 3) * step);
      }
      if (is[i]) {
        said += power(heard, i * step, (i + 1) * step);
        saidAfter += power(out, i * step, (i + 1) * step);
      }
    }
    better.push(db(before) - db(after));
    cost.push(db(said) - db(saidAfter));
  }
  return [
    { what: 'room: tails after words lowered by', value: mean(better), unit: ' dB' },
    { what: 'room: level of the words lowered by', value: mean(cost), unit: ' dB' },
    { what: 'room: speed', value: Math.min(...speeds), limit: 100, unit: ' ×', atLeast: true },
  ];
}

function speeds() {
  const clean = speech(talkers[0], SECONDS, RATE_HZ);
  const kinds = {
    tone: { bands: Array.from({ length: 6 }, (_, i) => ({ shape: 'bell', frequencyHz: 100 * 2 ** i, gainDb: 3, q: 1 })) },
    sibilance: {},
    spots: { spots: [{ way: 'replace', startSeconds: 3, endSeconds: 4, lowHz: 500, highHz: 900, reductionDb: 20 }] },
    channels: {},
    'hum-notch': { drift: 'follow' },
  };
  return Object.entries(kinds).map(([kind, settings]) => ({
    what: `${kind}: speed`,
    value: treat(kind, settings, clean).speed,
    limit: 100,
    unit: ' ×',
    atLeast: true,
  }));
}

export const parts = { hum, clicks, clipping, plosives, room, speeds };

export async function run() {
  return Object.values(parts).flatMap((part) => part());
}
