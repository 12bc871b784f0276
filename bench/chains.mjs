// The starting chains on real speech: what each does to the fault that it is for, and what a clean voice loses by it. Clean is a voice over
// the floor of a room (-65 dBFS), of people that nothing was tuned on; the limit of what it may lose is that of issue and docs/quality.md.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { SoundMeasure, turned } from '../packages/dsp/dist/index.js';
import { chainRun, startingChains } from '../packages/engine/dist/index.js';
import { root } from '../scripts/lib/system.mjs';
import { clipped, db, inRoom, power, sdr, talk, withClicks, withHum, withPlosives } from './known-faults.mjs';
import { numbers, speech, talkers } from './speech.mjs';

const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/dsp/kernels/kernels.wasm')));
const RATE_HZ = 48000;
const SECONDS = 24;
/** The first moments of a tracker that has heard nothing yet are not judged. */
const SETTLED = 4 * RATE_HZ;
const FLOOR_DBFS = -65;
const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };

function through(chain, sound) {
  const parts = [];
  const run = chainRun(context, { treatments: chain.treatments }, (out, _, frames) => parts.push(out[0].slice(0, frames)));
  run.push([sound], sound.length);
  run.finish();
  const whole = new Float32Array(sound.length);
  let at = 0;
  for (const part of parts) {
    whole.set(part.subarray(0, Math.max(0, sound.length - at)), at);
    at += part.length;
  }
  return whole;
}
const lufs = (sound) => {
  const measure = new SoundMeasure(kernels, RATE_HZ, 1);
  measure.process([sound], sound.length);
  return measure.finish().integratedLufs;
};
const over = (mask, x) => x.filter((_, n) => n >= SETTLED && mask(n));
const levelOver = (mask, x) => db(power(over(mask, x)));

/** Where nothing of the voice is left, the last sound of a word neither. */
function quietIn(voice) {
  const step = RATE_HZ / 20;
  const is = Array.from(
    { length: Math.ceil(voice.length / step) },
    (_, i) => db(power(voice, i * step, Math.min(voice.length, (i + 1) * step))) < -68,
  );
  return (n) => is[Math.floor(n / step)];
}

/** Noise of a spectrum: through two one-pole low-passes. */
function coloured(length, levelDb, seed, a, b, modulation = () => 1) {
  const next = numbers(seed);
  let [low, slow] = [0, 0];
  const x = Float32Array.from({ length }, (_, n) => {
    const white = next() + next() + next();
    low += a * (white - low);
    slow += b * (low - slow);
    return (white * 0.05 + low + slow * 6) * modulation(n / RATE_HZ);
  });
  const gain = 10 ** ((levelDb - db(power(x))) / 20);
  return x.map((v) => v * gain);
}
const plus = (x, y) => x.map((v, n) => v + y[n]);
const gusts = (t) => 1 + 0.8 * Math.sin(2 * Math.PI * 0.21 * t) + 0.3 * Math.sin(2 * Math.PI * 0.83 * t);

/** What each chain is for: the fault, and by how many dB it is less afterwards (of the gaps, of what differs from the clean voice …). */
const gaps = (fault) => (chain, clean, words) => {
  const heard = fault(clean);
  return levelOver(words.quiet, heard) - levelOver(words.quiet, through(chain, heard));
};
const closer = (fault) => (chain, clean) => {
  const heard = fault(clean);
  // A filter turns phase beside what it takes: that is no distance.
  const [goal, before] = [clean, heard].map((x) => turned(context, { treatments: chain.treatments }, [x])[0]);
  return sdr(goal, through(chain, heard), SETTLED) - sdr(goal, before, SETTLED);
};
const faults = {
  'Quiet room': [gaps((x) => plus(x, coloured(x.length, -58, 3, 0.2, 0.02))), 4],
  'Only between the words': [gaps((x) => plus(x, coloured(x.length, -58, 3, 0.2, 0.02))), 3],
  'Mouth close by': [closer((x) => withPlosives(x, RATE_HZ).heard), 3],
  'Ticks and crackle': [closer((x) => withClicks(x, RATE_HZ, 60).heard), 4],
  'Computer beside the desk': [gaps((x) => plus(x, coloured(x.length, -46, 7, 0.06, 0.009))), 9],
  'Air from the ceiling': [gaps((x) => plus(x, coloured(x.length, -48, 9, 0.4, 0.03))), 10],
  'Hum in the cable': [gaps((x) => withHum(x, RATE_HZ, 50.02, 8, -40)), 6],
  'Buzzing lamp': [gaps((x) => withHum(x, RATE_HZ, 100, 14, -40)), 6],
  'Street behind the window': [
    gaps((x) =>
      plus(
        x,
        coloured(x.length, -46, 11, 0.02, 0.004, (t) => 1 + 0.25 * Math.sin(0.9 * t)),
      ),
    ),
    8,
  ],
  'Wind on the path': [gaps((x) => plus(x, coloured(x.length, -42, 13, 0.01, 0.003, gusts))), 6],
  'Bad line': [gaps((x) => plus(x, coloured(x.length, -44, 15, 0.5, 0.05))), 10],
  'Echoing hall': [gaps((x) => plus(x, inRoom(x, RATE_HZ, 1, -4).late)), 1.5],
  'Recorded too hot': [closer((x) => clipped(x, 0.35).heard), 3],
  'Beside running water': [gaps((x) => plus(x, coloured(x.length, -40, 17, 0.7, 0.1))), 10],
};

export async function run() {
  const rows = [];
  for (const chain of startingChains) {
    const [mends, least] = faults[chain.name];
    const found = talkers.map((talker) => {
      const voice = speech(talker, SECONDS, RATE_HZ);
      const clean = plus(voice, coloured(voice.length, FLOOR_DBFS, 21, 0.3, 0.05));
      const { step, is } = talk(voice, RATE_HZ);
      const words = (n) => is[Math.floor(n / step)] === 1;
      words.quiet = quietIn(voice);
      const out = through(chain, clean);
      const [source] = turned(context, { treatments: chain.treatments }, [clean]);
      const lost = source.map((x, n) => x - out[n]);
      return {
        mended: mends(chain, clean, words),
        moved: Math.abs(lufs(out) - lufs(clean)),
        kept: levelOver(words, source) - levelOver(words, lost),
      };
    });
    const worst = (name, of) => of(...found.map((one) => one[name]));
    rows.push({ what: `${chain.name}: its fault less by`, value: worst('mended', Math.min), unit: ' dB', limit: least, atLeast: true });
    rows.push({ what: `${chain.name}: a clean voice quieter or louder by`, value: worst('moved', Math.max), unit: ' LU', limit: 0.3 });
    rows.push({ what: `${chain.name}: voice over what it lost`, value: worst('kept', Math.min), unit: ' dB', limit: 30, atLeast: true });
  }
  return rows;
}
