// Bleed of one person in another's microphone, on real speech: two people in turns, now and then at once, through the air of a room with echoes,
// over the floors of rooms. What is bleed and what is a word is known, since the microphones are put together here. Material: bench/speech.mjs.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { BleedListener, findBleed } from '../packages/dsp/dist/index.js';
import { chainRun } from '../packages/engine/dist/index.js';
import { root } from '../scripts/lib/system.mjs';
import { db, gain, inRoom, power, talk } from './known-faults.mjs';
import { numbers, speech, talkers } from './speech.mjs';

const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const RATE_HZ = 48000;
const SECONDS = 60;
const TALK_DBFS = -24;
/** Level of the bleed against the own voice of the microphone, and floor of the room. */
const SCENES = [
  [-20, -70],
  [-20, -60],
  [-20, -50],
  [-14, -60],
];
/** A word that is lowered by so much for so long has lost something. */
const LOST_DB = 3;
const LOST_SECONDS = 0.01;

/** In turns of 2 to 7 s; one in five begins before the other has ended. */
function turns(seed) {
  const next = numbers(seed);
  const spans = [[], []];
  for (let at = 0.8, who = 0; at < SECONDS - 3; who = 1 - who) {
    const length = 4.5 + 2.5 * next();
    spans[who].push([at, Math.min(SECONDS - 1, at + length)]);
    at += length + (next() > 0.6 ? -1.2 : 0.4);
  }
  return spans;
}

function voice(talker, spans, skip) {
  const sound = speech(talker, SECONDS, RATE_HZ, skip);
  const out = new Float32Array(SECONDS * RATE_HZ);
  let at = 0;
  for (const [from, to] of spans) {
    const length = Math.round((to - from) * RATE_HZ);
    for (let n = 0; n < length; n++)
      out[Math.round(from * RATE_HZ) + n] = Math.min(1, n / 960, (length - n) / 960) * sound[(at + n) % sound.length];
    at += length;
  }
  const { step, is } = talk(out, RATE_HZ);
  let sum = 0;
  let count = 0;
  is.forEach((talks, i) => talks && ((sum += power(out, i * step, (i + 1) * step)), count++));
  const by = gain(TALK_DBFS - db(sum / count));
  return out.map((x) => x * by);
}

function across(sound, delayMs, bleedDb, seed) {
  const delay = Math.round((delayMs / 1000) * RATE_HZ);
  const { late } = inRoom(sound, RATE_HZ, 0.35, -6, seed);
  const room = sound.map((x, n) => x + late[n]);
  let low = 0;
  const dull = Float32Array.from(sound, (_, n) => (low += 0.5 * ((room[n - delay] ?? 0) - low)));
  const by = gain(bleedDb + db(power(sound)) - db(power(dull)));
  return dull.map((x) => x * by);
}

function judged(people, bleedDb, floorDbfs, seed) {
  const spans = turns(seed);
  const own = people.map((talker, i) => voice(talker, spans[i], 20 + 15 * i));
  const next = numbers(seed + 1);
  const bleed = [across(own[1], 3.2, bleedDb, seed), across(own[0], 2.6, bleedDb, seed + 5)];
  const mics = own.map((sound, i) => sound.map((x, n) => x + bleed[i][n] + gain(floorDbfs + 4 * i) * (next() + next() + next())));
  const listeners = mics.map((mic) => {
    const listener = new BleedListener(kernels, RATE_HZ);
    for (let at = 0; at < mic.length; at += 4096) listener.process(mic.subarray(at, at + 4096), Math.min(4096, mic.length - at));
    return listener;
  });
  let [before, after, words, lost] = [0, 0, 0, 0];
  findBleed(listeners).forEach((found, i) => {
    const settings = {
      kind: 'bleed',
      id: 'b',
      bypassed: false,
      reductionDb: 18,
      fadeMs: 60,
      bleed: found.map((span) => ({ ...span, state: 'treat' })),
    };
    const by = new Float32Array(mics[i].length).fill(1);
    let at = 0;
    const run = chainRun({ sampleRateHz: RATE_HZ, channels: 1, kernels }, { treatments: [settings] }, ([samples], _, frames) => {
      by.set(samples.subarray(0, Math.min(frames, by.length - at)), at);
      at += frames;
    });
    run.push([by.slice()], by.length);
    run.finish();
    const { step, is } = talk(own[i], RATE_HZ);
    for (let k = 0; k < is.length; k++) {
      if (is[k]) continue;
      for (let n = k * step; n < (k + 1) * step; n++) {
        before += bleed[i][n] ** 2;
        after += (by[n] * bleed[i][n]) ** 2;
      }
    }
    for (let k = 0; k < is.length; k++) {
      if (!is[k]) continue;
      const from = k;
      while (k < is.length && is[k]) k++;
      words++;
      let touched = 0;
      for (let n = from * step; n < k * step; n++) if (by[n] < gain(-LOST_DB)) touched++;
      if (touched > LOST_SECONDS * RATE_HZ) lost++;
    }
  });
  return { before, after, words, lost };
}

export async function run() {
  const pairs = [
    [0, 1],
    [1, 2],
    [2, 0],
  ];
  return SCENES.flatMap(([bleedDb, floorDbfs]) => {
    const all = pairs.map(([a, b], i) => judged([talkers[a], talkers[b]], bleedDb, floorDbfs, 31 + 10 * i));
    const sum = (name) => all.reduce((total, one) => total + one[name], 0);
    const scene = `three pairs, bleed ${bleedDb} dB, floor ${floorDbfs} dBFS`;
    const asked = bleedDb === -20;
    return [
      {
        what: `${scene}: bleed lowered while its owner is silent`,
        value: db(sum('before') / sum('after')),
        unit: ' dB',
        ...(asked && { limit: 12, atLeast: true }),
      },
      {
        what: `${scene}: of ${sum('words')} words, more than 10 ms lost`,
        value: (100 * sum('lost')) / sum('words'),
        unit: ' %',
        ...(asked && { limit: 1 }),
      },
    ];
  });
}
