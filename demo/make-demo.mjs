// Makes the recordings of the demo, The Tidemill Tour: an invented audio guide of an invented mill. The voice is
// synthetic (Debian: festival, festvox-us-slt-hts), the noise is generated. Run it to make them again:
//   node demo/make-demo.mjs
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const RATE_HZ = 48000;
const here = fileURLToPath(new URL('.', import.meta.url));
const work = mkdtempSync(join(tmpdir(), 'tidemill-'));

const sentences = [
  ['Welcome to the Tidemill Tour.', 1.1],
  ['You are standing on the sluice bridge, where the Wenna river meets the sea.', 0.7],
  ['Twice a day the water rises behind these gates,', 0.35],
  ['and twice a day it turns the wheel below you.', 1.4],
  ['The first mill on this bank was built of oak and driven by a single wheel.', 0.6],
  ['It ground barley for eleven farms, and salt for the harbour.', 1.2],
  ['Listen.', 0.9],
  ['What you hear under the floor is the race, the narrow channel that feeds the wheel.', 0.5],
  ['When the miller lifts the gate, the whole house begins to hum.', 1.5],
  ['Walk on now to the stair at the far end of the bridge.', 0.45],
  ['Hold on to the rope, the steps are worn and often wet.', 0.8],
  ['At the bottom, look for the carved heron above the door.', 0.5],
  ['Behind it, the stones are waiting.', 1.8],
];

function speak(text, index) {
  const wav = join(work, `${index}.wav`);
  const script = join(work, `${index}.scm`);
  writeFileSync(script, `(voice_cmu_us_slt_arctic_hts)\n(utt.save.wave (utt.synth (Utterance Text "${text}")) "${wav}" 'riff)\n`);
  execFileSync('festival', ['-b', script]);
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', wav, '-af', `aresample=${RATE_HZ}:resampler=soxr`, '-f', 'f32le', '-'], { maxBuffer: 1 << 28 });
  const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  // The synthesiser puts digital silence around its words; the pauses are ours.
  const loud = (x) => Math.abs(x) > 0.003;
  const first = Math.max(0, samples.findIndex(loud) - 1500);
  const last = Math.min(samples.length, samples.findLastIndex(loud) + 3000);
  return samples.slice(first, last);
}

/** Uniform numbers from -1 to 1, always the same (mulberry32). */
function numbers(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 31 - 1;
  };
}
const gain = (db) => 10 ** (db / 20);

/** A computer fan: broad noise leaning to the low end, two blade tones; and mains hum with falling harmonics. */
function addRoom(samples) {
  const next = numbers(1907);
  let slow = 0;
  let slower = 0;
  for (let n = 0; n < samples.length; n++) {
    const t = (2 * Math.PI * n) / RATE_HZ;
    const white = next() + next() + next();
    slow += 0.06 * (white - slow);
    slower += 0.009 * (white - slower);
    const fan = gain(-61) * white + gain(-39) * slow + gain(-33) * slower;
    const blades = gain(-60) * Math.sin(118 * t) * (1 + 0.2 * Math.sin(0.9 * t)) + gain(-66) * Math.sin(236 * t + 1);
    const hum = [-46, -58, -52, -66, -60, -70].reduce((sum, db, i) => sum + gain(db) * Math.sin(50 * (i + 1) * t + i), 0);
    samples[n] += fan + blades + hum;
  }
}

const parts = [new Float32Array(Math.round(2.4 * RATE_HZ))];
for (const [index, [text, pauseSeconds]] of sentences.entries()) {
  // A speaker is never quite as loud twice.
  const level = gain([-5, -3.5, -6, -4.5, -7, -5.5][index % 6]);
  parts.push(speak(text, index).map((x) => x * level), new Float32Array(Math.round(pauseSeconds * RATE_HZ)));
}
const narrator = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
let at = 0;
for (const part of parts) {
  narrator.set(part, at);
  at += part.length;
}
addRoom(narrator);
const raw = join(work, 'narrator.f32');
writeFileSync(raw, Buffer.from(narrator.buffer));
execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'f32le', '-ar', String(RATE_HZ), '-ac', '1', '-i', raw, '-sample_fmt', 's32', '-bits_per_raw_sample', '24', '-c:a', 'flac', join(here, 'narrator.flac')]);
rmSync(work, { recursive: true });
console.log(`narrator.flac: ${(narrator.length / RATE_HZ).toFixed(1)} s, ${readFileSync(join(here, 'narrator.flac')).length} bytes`);
