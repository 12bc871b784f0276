// What brings levels together, on real speech: three people in turn, phrase by phrase, each phrase and each person at another level,
// over the floor of a room. Phrases are known, since they are put together here. Material: bench/speech.mjs.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { SoundMeasure } from '../packages/dsp/dist/index.js';
import { chainRun } from '../packages/engine/dist/index.js';
import { root } from '../scripts/lib/system.mjs';
import { db, gain, power, talk } from './known-faults.mjs';
import { joined, numbers, speech, talkers } from './speech.mjs';

const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const RATE_HZ = 48000;
const SECONDS = 40;
const PAUSE_FRAMES = Math.round(0.25 * RATE_HZ);
const FLOORS_DBFS = [-75, -62, -50];
const LARGEST_STEP_DB = 8;
/** Within this of a word a gap is still its room. */
const NEAR_FRAMES = Math.round(0.3 * RATE_HZ);

/** The phrases of a talker: what lies between pauses of a quarter of a second. */
function phrasesOf(talker) {
  const sound = speech(talker, SECONDS, RATE_HZ, 40);
  const { step, is } = talk(sound, RATE_HZ);
  const phrases = [];
  for (let i = 0; i < is.length; i++) {
    if (!is[i]) continue;
    let end = i;
    for (let quiet = 0, j = i; j < is.length && quiet * step < PAUSE_FRAMES; j++) {
      quiet = is[j] ? 0 : quiet + 1;
      if (is[j]) end = j;
    }
    if ((end - i) * step > 0.8 * RATE_HZ) phrases.push(sound.slice(i * step, (end + 1) * step));
    i = end + 1;
  }
  return phrases;
}

const lufs = (sound) => {
  const measure = new SoundMeasure(kernels, RATE_HZ, 1);
  measure.process([sound], sound.length);
  return measure.finish().integratedLufs;
};

/** People in turn, each phrase at a level of its own, with pauses; over a floor. */
function made(floorDbfs) {
  const next = numbers(11);
  const people = talkers.map((talker, i) => ({ phrases: phrasesOf(talker), gainDb: [0, -9, 5][i] }));
  const parts = [];
  const spans = [];
  let at = 0;
  const add = (sound) => {
    parts.push(sound);
    at += sound.length;
  };
  add(new Float32Array(RATE_HZ));
  for (let turn = 0; turn < 18; turn++) {
    const { phrases, gainDb } = people[turn % 3];
    for (const phrase of phrases.slice(2 * Math.floor(turn / 3), 2 * Math.floor(turn / 3) + 2)) {
      const by = gain(gainDb - 6 + (LARGEST_STEP_DB / 2) * next());
      spans.push({ startFrame: at, endFrame: at + phrase.length });
      add(phrase.map((x) => x * by));
      add(new Float32Array(Math.round((0.35 + 0.5 * (1 + next())) * RATE_HZ)));
    }
  }
  const floor = gain(floorDbfs);
  return { sound: joined(parts).map((x) => x + floor * (next() + next() + next())), spans };
}

function through(treatments, sound) {
  const out = new Float32Array(sound.length);
  let at = 0;
  const run = chainRun({ sampleRateHz: RATE_HZ, channels: 1, kernels }, { treatments }, ([samples], _, frames) => {
    out.set(samples.subarray(0, Math.max(0, Math.min(frames, out.length - at))), at);
    at += frames;
  });
  run.push([sound], sound.length);
  run.finish();
  return out;
}

const spread = (values) => {
  const mean = values.reduce((sum, x) => sum + x, 0) / values.length;
  return Math.sqrt(values.reduce((sum, x) => sum + (x - mean) ** 2, 0) / values.length);
};
const phraseLevels = (sound, spans) => spans.map(({ startFrame, endFrame }) => lufs(sound.slice(startFrame, endFrame)));

/** Level of the gaps, away from words; the largest rise of any of them. */
function gapRise(before, after, spans) {
  const rises = spans.slice(0, -1).flatMap(({ endFrame }, i) => {
    const [from, to] = [endFrame + NEAR_FRAMES, spans[i + 1].startFrame - NEAR_FRAMES];
    return to - from > 0.1 * RATE_HZ ? [db(power(after, from, to)) - db(power(before, from, to))] : [];
  });
  return Math.max(...rises);
}

export async function run() {
  const rows = [];
  for (const floorDbfs of FLOORS_DBFS) {
    const { sound, spans } = made(floorDbfs);
    const before = spread(phraseLevels(sound, spans));
    const levelled = through([{ kind: 'levelling', targetLufs: -24, rangeDb: 18, speedSeconds: 2 }], sound);
    const levels = phraseLevels(levelled, spans);
    const floor = `floor ${floorDbfs} dBFS`;
    rows.push({ what: `${spans.length} phrases of three people, ${floor}: spread of their loudness`, value: before, unit: ' LU' });
    rows.push({ what: `levelled, ${floor}: spread against before`, value: spread(levels) / before, limit: 0.5 });
    rows.push({
      what: `levelled, ${floor}: phrases off their target, on average`,
      value: Math.abs(levels.reduce((sum, x) => sum + x, 0) / levels.length + 24),
      unit: ' LU',
      limit: 1,
    });
    rows.push({ what: `levelled, ${floor}: most that a gap rises`, value: gapRise(sound, levelled, spans), unit: ' dB', limit: 1 });
  }
  return rows;
}
