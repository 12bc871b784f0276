// The survey against known faults in real speech: each fault put into each talker, and all the others as its counter-
// examples. Prints recall and precision by finding, and how long an hour takes.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Surveyor } from '../packages/dsp/dist/index.js';
import { root } from '../scripts/lib/system.mjs';
import { clipped, gain, inRoom, talk, withClicks, withHum, withNoise, withPlosives } from './known-faults.mjs';
import { narration } from './sounds.mjs';
import { joined, numbers, speech, talkers } from './speech.mjs';

export const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
export const RATE_HZ = 48000;
const SECONDS = 40;

export function survey(channels, rate = RATE_HZ) {
  const surveyor = new Surveyor(kernels, rate, channels.length);
  for (let from = 0; from < channels[0].length; from += 4096)
    surveyor.process(
      channels.map((x) => x.subarray(from, from + 4096)),
      Math.min(4096, channels[0].length - from),
    );
  return surveyor.finish().findings;
}

/** Low-passed noise, for rumble. */
function withRumble(clean, levelDb) {
  const next = numbers(41);
  const noise = new Float32Array(clean.length);
  let a = 0,
    b = 0;
  for (let n = 0; n < noise.length; n++) {
    a += 0.004 * (next() - a);
    b += 0.004 * (a - b);
    noise[n] = b;
  }
  const scale = gain(levelDb) / Math.sqrt(noise.reduce((sum, x) => sum + x * x, 0) / noise.length);
  return clean.map((x, n) => x + scale * noise[n]);
}

function withDropouts(clean, seed = 51) {
  const next = numbers(seed);
  const { step, is } = talk(clean, RATE_HZ);
  const heard = Float32Array.from(clean);
  const places = [];
  for (let i = 20; i < is.length - 20; i += 40) {
    if (!is[i] || !is[i + 1]) continue;
    const at = i * step;
    const length = Math.round((0.004 + 0.02 * (next() + 1)) * RATE_HZ);
    heard.fill(0, at, at + length);
    places.push({ at, end: at + length });
  }
  return { heard, places };
}

/** Coughs and knocks in the gaps: bursts of band noise of 80 to 250 ms, 25 dB above the floor. */
function withGapSounds(clean, seed = 61) {
  const next = numbers(seed);
  const { step, is } = talk(clean, RATE_HZ);
  const heard = Float32Array.from(clean);
  const places = [];
  for (let i = 10; i < is.length - 14; i++) {
    if (is.subarray(i - 4, i + 10).some((x) => x) || (places.length && i * step - places.at(-1).at < 2 * RATE_HZ)) continue;
    const at = i * step;
    const length = Math.round((0.14 + 0.06 * next()) * RATE_HZ);
    let low = 0;
    for (let n = 0; n < length; n++) {
      low += 0.12 * (next() - low);
      heard[at + n] += 0.06 * low * Math.sin((Math.PI * n) / length);
    }
    places.push({ at, end: at + length });
  }
  return { heard, places };
}

/** Clean speech with pauses of a second every few words, so that gaps have room. */
export function spaced(talker) {
  const clean = speech(talker, SECONDS, RATE_HZ);
  const { step, is } = talk(clean, RATE_HZ);
  const parts = [];
  let from = 0;
  for (let i = 4; i < is.length - 4; i++)
    if (!is[i - 1] && !is[i] && !is[i + 1] && i * step - from > 3 * RATE_HZ) {
      parts.push(clean.subarray(from, i * step), new Float32Array(RATE_HZ));
      from = i * step;
    }
  return withNoise(joined([...parts, clean.subarray(from)]).subarray(0, SECONDS * RATE_HZ), -72, 3);
}

const faults = {
  nothing: (x) => [x],
  rumble: (x) => [withRumble(x, -42)],
  hum: (x) => [withHum(x, RATE_HZ, 50, 6, -50)],
  'hum 60': (x) => [withHum(x, RATE_HZ, 60, 4, -55)],
  hiss: (x) => [withNoise(x, -52, 8)],
  'dc-offset': (x) => [x.map((v) => v + 0.01)],
  clipping: (x) => [clipped(x, 0.5).heard],
  'clipping, lowered': (x) => [clipped(x, 0.5).heard.map((v) => v * 0.4)],
  clicks: (x) => [withClicks(x, RATE_HZ, 60).heard],
  plosives: (x) => [withPlosives(x, RATE_HZ).heard],
  room: (x) => [x.map((v, n) => v + (room ??= inRoom(x, RATE_HZ, 0.9, -3).late)[n])],
  'dead channel': (x) => [x, new Float32Array(x.length)],
  'quieter channel': (x) => [x, x.map((v) => v * 0.1)],
  'identical channels': (x) => [x, x],
  'opposite channels': (x) => [
    x,
    withNoise(
      x.map((v) => -v),
      -75,
      12,
    ),
  ],
  dropouts: (x) => [withDropouts(x).heard],
  'gap-sounds': (x) => [withGapSounds(x).heard],
};
let room;
const kindOf = (fault) =>
  fault.startsWith('hum') ? 'hum' : fault.startsWith('clipping') ? 'clipping' : /channel/.test(fault) ? 'channel' : fault;

/** What is told one by one: of each that was put in, whether it was told; of each that was told, whether it was put in. */
function eachFound() {
  const parts = {
    clicks: (x) => {
      const { heard, clicks } = withClicks(x, RATE_HZ, 60);
      return { heard, places: clicks };
    },
    plosives: (x) => {
      const { heard, bursts } = withPlosives(x, RATE_HZ);
      return { heard, places: bursts };
    },
    dropouts: withDropouts,
    'gap-sounds': withGapSounds,
  };
  return Object.entries(parts).flatMap(([kind, make]) => {
    let put = 0,
      hit = 0,
      told = 0,
      right = 0;
    for (const talker of talkers) {
      const { heard, places } = make(spaced(talker));
      const finding = survey([heard]).find((other) => other.kind === kind);
      const spans = finding?.spans ?? finding?.atSeconds.map((at) => ({ startSeconds: at, endSeconds: at })) ?? [];
      const near = ({ startSeconds, endSeconds }, { at, end }) => startSeconds < end / RATE_HZ + 0.03 && endSeconds > at / RATE_HZ - 0.03;
      put += places.length;
      hit += places.filter((place) => spans.some((span) => near(span, place))).length;
      told += spans.length;
      right += spans.filter((span) => places.some((place) => near(span, place))).length;
    }
    return [
      { what: `${kind}, one by one: recall (${put})`, value: hit / put, limit: 0.9, atLeast: true },
      { what: `${kind}, one by one: precision (${told} told)`, value: right / Math.max(1, told), limit: 0.9, atLeast: true },
    ];
  });
}

export async function run() {
  const found = [];
  for (const talker of talkers) {
    const clean = spaced(talker);
    room = undefined;
    for (const [fault, make] of Object.entries(faults)) found.push({ fault, talker: talker.name, findings: survey(make(clean)) });
  }
  // Natural speech has bursts and clicks of its own: those are judged one by one, below.
  const kinds = [...new Set(Object.keys(faults).map(kindOf))].filter((kind) => kind !== 'nothing' && kind !== 'plosives');
  const rows = kinds.flatMap((kind) => {
    const has = ({ findings }) => findings.some((finding) => finding.kind === kind && finding.certainty >= 0.5);
    const put = found.filter(({ fault }) => kindOf(fault) === kind);
    const others = found.filter(({ fault }) => kindOf(fault) !== kind);
    const right = put.filter(has).length;
    const wrong = others.filter(has);
    return [
      { what: `${kind}: recall (${put.length})`, value: right / put.length, limit: 0.9, atLeast: true },
      {
        what: `${kind}: precision (${right + wrong.length} told)`,
        value: right / Math.max(1, right + wrong.length),
        limit: 0.9,
        atLeast: true,
      },
    ];
  });
  rows.push(...eachFound(), ...(await import('./survey-talk.mjs')).rows());
  const bases = found
    .filter(({ fault }) => fault.startsWith('hum'))
    .map(({ fault, findings }) => Math.abs((findings.find(({ kind }) => kind === 'hum')?.baseHz ?? 0) - (fault === 'hum' ? 50 : 60)));
  rows.push({ what: 'hum: base off by, the worst', value: Math.max(...bases), limit: 0.1, unit: ' Hz' });
  const hour = narration(3600);
  const started = Date.now();
  if (spawnSync(process.execPath, [join(root, 'apps/cli/dist-bundle/main.js'), 'survey', hour], { stdio: 'ignore' }).status !== 0)
    throw new Error('survey failed');
  rows.push({ what: 'an hour surveyed', value: (Date.now() - started) / 1000, limit: 60, unit: ' s' });
  return rows;
}
