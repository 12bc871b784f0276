// Real speech for the quality bench: studio prompts of Debian's Asterisk packages, one talker each, read once and kept.
// asterisk-core-sounds-it-g722 and -ru-g722: CC-BY 3.0; -en-g722: CC-BY-SA 3.0. Fetched, never shipped.
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { folder } from './sounds.mjs';

export const talkers = [
  { name: 'Italian man', package: 'asterisk-core-sounds-it-g722', voice: 'it_IT_m_Carlo' },
  { name: 'English woman', package: 'asterisk-core-sounds-en-g722', voice: 'en_US_f_Allison' },
  { name: 'Russian woman', package: 'asterisk-core-sounds-ru-g722', voice: 'ru_RU_f_IvrvoiceRU' },
];
const PROMPT_RATE_HZ = 16000;

const floats = (bytes) => new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length - (bytes.length % 4)));
const ffmpeg = (args, input) =>
  execFileSync(
    'ffmpeg',
    ['-nostdin', '-v', 'error', ...args].filter((arg) => arg !== '-nostdin' || !input),
    { input, maxBuffer: 1 << 30 },
  );

/** Fetches the prompts of a talker, once; returns their folder. */
export function fetchTalker({ package: name, voice }) {
  const unpacked = fetchPackage(name);
  return join(unpacked, 'usr/share/asterisk/sounds', voice);
}

/** Unpacks a Debian package into a folder of the bench, once. */
export function fetchPackage(name) {
  const unpacked = join(folder, name);
  if (existsSync(join(unpacked, 'usr'))) return unpacked;
  mkdirSync(unpacked, { recursive: true });
  for (const [command, args] of [
    ['apt-get', ['download', '-qq', name]],
    ['bash', ['-c', `dpkg-deb -x ${name}_*.deb .`]],
  ]) {
    const { status } = spawnSync(command, args, { cwd: unpacked, stdio: 'ignore' });
    if (status !== 0) throw new Error(`${command} could not fetch ${name}; run apt-get update first.`);
  }
  return unpacked;
}

/** Seconds of one talker, prompts with pauses between; -20 dBFS RMS where there is talk. The prompts hold up to 8 kHz. */
export function speech(talker, seconds, rateHz, skip = 0) {
  const { voice } = talker;
  const at = join(folder, `${voice}-${seconds}-${rateHz}-${skip}.f32`);
  if (existsSync(at)) return floats(readFileSync(at));
  const prompts = fetchTalker(talker);
  const files = readdirSync(prompts)
    .filter((file) => file.endsWith('.g722') && statSync(join(prompts, file)).size > 14000)
    .sort();
  const parts = [];
  let length = 0;
  // Pauses are of the recording's own floor, not of zeros: steady noise at -75 dBFS, below what the codec left.
  const next = numbers(77);
  const pause = (frames) => Float32Array.from({ length: frames }, () => (next() + next() + next()) * 1.78e-4);
  for (const [i, file] of files.slice(skip).entries()) {
    const prompt = floats(ffmpeg(['-f', 'g722', '-i', join(prompts, file), '-f', 'f32le', '-ar', String(PROMPT_RATE_HZ), '-']));
    parts.push(prompt, pause(Math.round((0.35 + 0.25 * (i % 4)) * PROMPT_RATE_HZ)));
    length += parts.at(-1).length + prompt.length;
    if (length > seconds * PROMPT_RATE_HZ) break;
  }
  const whole = joined(parts).subarray(0, seconds * PROMPT_RATE_HZ);
  const loud = whole.filter((x) => Math.abs(x) > 0.01);
  const gain = 0.1 / Math.sqrt(loud.reduce((sum, x) => sum + x * x, 0) / loud.length);
  const levelled = whole.map((x) => x * gain);
  const bytes = ffmpeg(
    ['-f', 'f32le', '-ar', String(PROMPT_RATE_HZ), '-ac', '1', '-i', '-', '-af', `aresample=${rateHz}:resampler=soxr`, '-f', 'f32le', '-'],
    Buffer.from(levelled.buffer),
  );
  writeFileSync(at, bytes);
  return floats(bytes);
}

export function joined(parts) {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Uniform numbers from -1 to 1, the same for the same seed (mulberry32). */
export function numbers(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 31 - 1;
  };
}
