// Makes the recordings of the demo, The Tidemill Tour: an invented audio guide of an invented mill. The voices are
// synthetic (Debian: festival, festvox-us-slt-hts, flite), the noise is generated. Every fault that a survey finds is in
// one of them. Run it to make them again:
//   node demo/make-demo.mjs
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bed } from './bed.mjs';
import { writePicture } from './picture.mjs';

const RATE_HZ = 48000;
const here = fileURLToPath(new URL('.', import.meta.url));
const work = mkdtempSync(join(tmpdir(), 'tidemill-'));

const narration = [
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
const miller = [
  ['My father lifted this gate every morning before the tide turned.', 1.0],
  ['You learn to hear the water long before you can see it.', 0.8],
  ['When the stones run dry they sing, and that is when you stop.', 1.3],
  ['I have stopped them twice in thirty years.', 0.9],
  ['Both times it was the eel in the race, never the wheel.', 1.5],
];
const boatwright = [
  ['Can you hear me now? The line is bad down here by the slip.', 1.0],
  ['We build them the way the old ones were built, larch on oak.', 0.8],
  ['A flour barge has to sit flat on the mud at low water.', 0.9],
  ['So the bottom comes first, and the rest follows.', 1.4],
];
const guide = [
  ['Please keep to the path, the bank is soft after rain.', 1.1],
  ['Below us people built the first pond with baskets of clay.', 0.9],
  ['Salt boats passed here, bound for the upper bridge.', 1.2],
  ['Pause by the post if you need a better view.', 1.4],
  ['Six sluices set the stream, six sisters, people used to say.', 1.2],
];

const read = (wav, filters = '') => {
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', wav, '-af', `aresample=${RATE_HZ}:resampler=soxr${filters}`, '-ac', '1', '-f', 'f32le', '-'],
    { maxBuffer: 1 << 28 },
  );
  return new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
};

/** Says a sentence; the synthesiser's own silence around it goes, the pauses are ours. */
function speak(text, name, voice) {
  const wav = join(work, `${name}.wav`);
  if (voice === 'slt-hts') {
    const script = join(work, `${name}.scm`);
    writeFileSync(script, `(voice_cmu_us_slt_arctic_hts)\n(utt.save.wave (utt.synth (Utterance Text "${text}")) "${wav}" 'riff)\n`);
    execFileSync('festival', ['-b', script]);
  } else execFileSync('flite', ['-voice', voice, '-t', text, '-o', wav]);
  const samples = read(wav);
  const loud = (x) => Math.abs(x) > 0.003;
  return samples.slice(Math.max(0, samples.findIndex(loud) - 1500), Math.min(samples.length, samples.findLastIndex(loud) + 3000));
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

/** Sentences with their pauses; `starts` tells where each sentence begins. A speaker is never quite as loud twice. */
function take(sentences, voice, name, leadSeconds) {
  const parts = [new Float32Array(Math.round(leadSeconds * RATE_HZ))];
  const starts = [];
  let length = parts[0].length;
  for (const [index, [text, pauseSeconds]] of sentences.entries()) {
    const level = gain([-5, -3.5, -6, -4.5, -7, -5.5][index % 6]);
    starts.push(length);
    for (const part of [
      speak(text, `${name}-${index}`, voice).map((x) => x * level),
      new Float32Array(Math.round(pauseSeconds * RATE_HZ)),
    ]) {
      parts.push(part);
      length += part.length;
    }
  }
  const samples = new Float32Array(length);
  let at = 0;
  for (const part of parts) {
    samples.set(part, at);
    at += part.length;
  }
  return { samples, starts };
}

/** Noise through two one-pole low-passes: `a` and `b` are their shares. */
function addNoise(samples, seed, levels, modulation = () => 1) {
  const next = numbers(seed);
  let slow = 0;
  let slower = 0;
  for (let n = 0; n < samples.length; n++) {
    const white = next() + next() + next();
    slow += levels.a * (white - slow);
    slower += levels.b * (white - slower);
    samples[n] += modulation(n / RATE_HZ) * (gain(levels.white) * white + gain(levels.slow) * slow) + gain(levels.slower) * slower;
  }
}

function addTones(samples, tones) {
  for (let n = 0; n < samples.length; n++) {
    const t = (2 * Math.PI * n) / RATE_HZ;
    for (const [hz, db, phase = 0] of tones) samples[n] += gain(db) * Math.sin(hz * t + phase);
  }
}

/** A room: exponentially decaying noise behind the sound. */
function addRoom(samples, decaySeconds, levelDb, seed) {
  const next = numbers(seed);
  const length = Math.round(decaySeconds * RATE_HZ);
  const response = Float32Array.from({ length }, (_, n) => (n < 480 ? 0 : next() * 10 ** ((-3 * n) / length)));
  const scale = gain(levelDb) / Math.sqrt(response.reduce((sum, x) => sum + x * x, 0));
  writeFileSync(join(work, 'dry.f32'), Buffer.from(samples.buffer));
  writeFileSync(join(work, 'room.f32'), Buffer.from(response.map((x) => x * scale).buffer));
  const options = (file) => ['-f', 'f32le', '-ar', String(RATE_HZ), '-ac', '1', '-i', join(work, file)];
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', ...options('dry.f32'), ...options('room.f32'), '-filter_complex', 'afir=dry=1:wet=1:gtype=none', '-f', 'f32le', '-'],
    { maxBuffer: 1 << 28 },
  );
  const late = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  for (let n = 0; n < samples.length; n++) samples[n] += late[n] ?? 0;
}

function addClicks(samples, count, seed) {
  const next = numbers(seed);
  for (let i = 0; i < count; i++) {
    const at = Math.round(((i + 0.5 + 0.4 * next()) / count) * samples.length);
    const length = Math.round((0.6 + 0.4 * next()) * 0.001 * RATE_HZ);
    const level = gain(-15 + 4 * next());
    for (let n = 0; n < length && at + n < samples.length; n++)
      samples[at + n] += level * Math.exp((-3 * n) / length) * Math.cos((2 * Math.PI * (3200 + 900 * next()) * n) / RATE_HZ);
  }
}

/** A burst of sound: a knock, a cough. */
function addKnock(samples, atSeconds, lengthSeconds, share, db, seed) {
  const next = numbers(seed);
  const at = Math.round(atSeconds * RATE_HZ);
  const length = Math.round(lengthSeconds * RATE_HZ);
  let low = 0;
  for (let n = 0; n < length; n++) {
    low += share * (next() - low);
    samples[at + n] += gain(db) * low * Math.sin((Math.PI * n) / length) ** 0.5;
  }
}

function addBurst(samples, at, db) {
  const length = Math.round(0.11 * RATE_HZ);
  for (let n = 0; n < length; n++) {
    const t = n / RATE_HZ;
    samples[at + n] += gain(db) * Math.min(1, t / 0.004) * Math.exp((-3 * n) / length) * Math.sin(2 * Math.PI * 48 * t);
  }
}

/** A breath before a sentence. */
function addBreath(samples, endFrame, seed) {
  const next = numbers(seed);
  const length = Math.round(0.38 * RATE_HZ);
  let band = 0;
  let low = 0;
  for (let n = 0; n < length; n++) {
    band += 0.22 * (next() - band);
    low += 0.02 * (band - low);
    samples[endFrame - length - 2600 + n] += 0.045 * (band - low) * Math.sin((Math.PI * n) / length);
  }
}

function write(name, channels) {
  const frames = channels[0].length;
  const mixed = new Float32Array(frames * channels.length);
  channels.forEach((samples, c) => samples.forEach((x, n) => (mixed[n * channels.length + c] = x)));
  const raw = join(work, `${name}.f32`);
  writeFileSync(raw, Buffer.from(mixed.buffer));
  const file = join(here, `${name}.flac`);
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'f32le',
    '-ar',
    String(RATE_HZ),
    '-ac',
    String(channels.length),
    '-i',
    raw,
    '-sample_fmt',
    's16',
    '-c:a',
    'flac',
    '-compression_level',
    '10',
    file,
  ]);
  console.log(`${name}.flac: ${(frames / RATE_HZ).toFixed(1)} s, ${readFileSync(file).length} bytes`);
}

/** The narrator, beside a computer fan with two blade tones, and mains hum with falling harmonics. */
function makeNarrator() {
  const { samples } = take(narration, 'slt-hts', 'narrator', 2.4);
  addNoise(samples, 1907, { a: 0.06, b: 0.009, white: -61, slow: -39, slower: -33 });
  addTones(samples, [[118, -60], [236, -66, 1], ...[-46, -58, -52, -66, -60, -70].map((db, i) => [50 * (i + 1), db, i])]);
  write('narrator', [samples]);
}

/** The miller, on two microphones: the right one hangs far off. Water, a big room, clicks, breaths, a knock. */
function makeMiller() {
  const { samples, starts } = take(miller, 'rms', 'miller', 1.8);
  addRoom(samples, 1.1, 1, 17);
  for (const [i, start] of starts.entries()) addBreath(samples, start, 40 + i);
  addNoise(samples, 23, { a: 0.2, b: 0.01, white: -66, slow: -56, slower: -58 }, (t) => 1 + 0.12 * Math.sin(2 * Math.PI * 0.31 * t));
  addClicks(samples, 16, 7);
  addKnock(samples, starts[3] / RATE_HZ - 0.75, 0.16, 0.08, -3, 9);
  const far = samples.map((x) => x * gain(-15));
  write('miller', [samples, far]);
}

/** The boatwright on a bad line: clipped and lowered, cut at 3.4 kHz, with a whine, an offset and holes. */
function makeBoatwright() {
  const { samples, starts } = take(boatwright, 'awb', 'boatwright', 1.6);
  const level = 0.28;
  const wav = join(work, 'line.f32');
  writeFileSync(wav, Buffer.from(samples.buffer));
  const raw = execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-f',
      'f32le',
      '-ar',
      String(RATE_HZ),
      '-ac',
      '1',
      '-i',
      wav,
      '-af',
      'highpass=f=220,aresample=7000:resampler=soxr,aresample=48000:resampler=soxr',
      '-f',
      'f32le',
      '-',
    ],
    { maxBuffer: 1 << 28 },
  );
  const line = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  // The clipping comes last on the line and before the fader.
  const heard = line.map((x) => Math.max(-level, Math.min(level, x * 1.4)) * 0.7);
  addTones(heard, [[1187.3, -47]]);
  addNoise(heard, 31, { a: 0.3, b: 0.01, white: -66, slow: -58, slower: -70 });
  // What is clipped must stay flat: noise and whine come in where it is not.
  for (let n = 0; n < heard.length; n++) if (Math.abs(line[n] * 1.4) >= level) heard[n] = Math.sign(line[n]) * level * 0.7;
  for (let n = 0; n < heard.length; n++) heard[n] += 0.006;
  for (const [i, start] of starts.entries()) heard.fill(0, start + 30000 + 4000 * i, start + 30000 + 4000 * i + 900);
  write('boatwright', [heard]);
}

/** The guide outdoors: wind, bursts on p and b, harsh s, a whistle of a bird across one pause. */
function makeGuide() {
  const { samples, starts } = take(guide, 'slt', 'guide', 1.7);
  const wav = join(work, 'guide.f32');
  writeFileSync(wav, Buffer.from(samples.buffer));
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-f', 'f32le', '-ar', String(RATE_HZ), '-ac', '1', '-i', wav, '-af', 'treble=g=11:f=5200', '-f', 'f32le', '-'],
    { maxBuffer: 1 << 28 },
  );
  const voice = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length)).map((x) => 0.7 * x);
  addNoise(voice, 53, { a: 0.03, b: 0.003, white: -68, slow: -50, slower: -12 }, (t) => 1 + 0.5 * Math.sin(2 * Math.PI * 0.17 * t));
  for (const start of starts) addBurst(voice, start - 200, -6);
  const from = starts[3] - Math.round(0.8 * RATE_HZ);
  for (let n = 0; n < 0.4 * RATE_HZ; n++)
    voice[from + n] +=
      0.05 * Math.sin((Math.PI * n) / (0.4 * RATE_HZ)) * Math.sin(2 * Math.PI * (2600 + 300 * Math.sin(n / 2500)) * (n / RATE_HZ));
  write('guide', [voice]);
}

const makers = {
  bed: () => write('bed', bed(RATE_HZ)),
  narrator: makeNarrator,
  miller: makeMiller,
  boatwright: makeBoatwright,
  guide: makeGuide,
  // The guide was filmed: her sound is that of guide.flac.
  picture: () => writePicture(join(here, 'guide.flac'), join(here, 'guide.mov')),
};
// node demo/make-demo.mjs miller guide: only those.
for (const name of process.argv.length > 2 ? process.argv.slice(2) : Object.keys(makers)) await makers[name]();
rmSync(work, { recursive: true });
