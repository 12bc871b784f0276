// What the speech model learns from: talk of the prompts, at other speeds and pitches too, in coloured noise with tones,
// drift and flutter, at 24 kHz; features of the mix over a profile taken elsewhere, and the share of speech in every band.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { RealFft } from '../../packages/dsp/dist/kernels/real-fft.js';
import { bandFeature, SPEECH_BANDS, speechBandBins } from '../../packages/dsp/dist/noise/speech-bands.js';
import { folder } from '../sounds.mjs';
import { fetchTalker } from '../speech.mjs';

export const RATE_HZ = 24000;
export const SIZE = 1024;
const HOP = SIZE / 4;
const BINS = SIZE / 2 + 1;
/** The gain of a frame is asked for this many frames later. */
export const LOOK_AHEAD = 2;

const floats = (bytes) => new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length - (bytes.length % 4)));

/** All prompts of a talker, one after the other, played at a factor of their speed; a list of [start, end) of each. */
function talkOf(talker, factor) {
  const path = join(folder, `${talker.voice}-train-${factor}.f32`);
  const prompts = fetchTalker(talker);
  const files = readdirSync(prompts)
    .filter((file) => file.endsWith('.g722') && statSync(join(prompts, file)).size > 9000)
    .sort();
  if (!existsSync(path)) {
    const parts = files.map((file) =>
      execFileSync(
        'ffmpeg',
        [
          '-nostdin',
          '-v',
          'error',
          '-f',
          'g722',
          '-i',
          join(prompts, file),
          '-af',
          `asetrate=${Math.round(16000 * factor)},aresample=${RATE_HZ}:resampler=soxr`,
          '-f',
          'f32le',
          '-',
        ],
        { maxBuffer: 1 << 28 },
      ),
    );
    writeFileSync(path, Buffer.concat(parts.map((part) => part.subarray(0, part.length - (part.length % 4)))));
  }
  return floats(readFileSync(path));
}

const analysis = Float32Array.from({ length: SIZE }, (_, n) => Math.sqrt(0.5 - 0.5 * Math.cos((2 * Math.PI * n) / SIZE)));

/** Noises that are kept, seconds of each; one is made anew with every sequence batch. */
const NOISES = 240;
const NOISE_SECONDS = 6;

export class Mixes {
  constructor(kernels, talkers, next) {
    this.next = next;
    this.fft = new RealFft(kernels, SIZE);
    this.bands = speechBandBins(RATE_HZ / SIZE);
    this.voices = talkers.flatMap(({ talker, factors }) =>
      factors.map((factor) => {
        const sound = talkOf(talker, factor);
        return { sound, floor: this.#floorOf(sound) };
      }),
    );
    this.noises = Array.from({ length: NOISES }, () => this.#noise(NOISE_SECONDS * RATE_HZ));
    this.oldest = 0;
    this.speechPower = new Float64Array(SPEECH_BANDS);
    this.re0 = new Float64Array(BINS);
    this.im0 = new Float64Array(BINS);
  }

  /** Puts a new noise in the place of the oldest. */
  renew() {
    this.noises[this.oldest++ % NOISES] = this.#noise(NOISE_SECONDS * RATE_HZ);
  }

  #between = (low, high) => low + ((this.next() + 1) / 2) * (high - low);

  #gauss() {
    return (this.next() + this.next() + this.next()) * 1.0;
  }

  /** What the codec left in each band: twice the power of the quietest frames. */
  #floorOf(sound) {
    const levels = Array.from({ length: SPEECH_BANDS }, () => []);
    for (let at = 0; at + SIZE < sound.length; at += SIZE * 6) {
      this.#spectrum(sound, at);
      this.#bandPowers(this.fft.re, this.fft.im).forEach((p, b) => levels[b].push(p));
    }
    return levels.map((list) => 2.5 * list.sort((a, b) => a - b)[Math.floor(list.length * 0.06)]);
  }

  #spectrum(x, at) {
    const { frame } = this.fft;
    for (let n = 0; n < SIZE; n++) frame[n] = x[at + n] * analysis[n];
    this.fft.forward();
  }

  #bandPowers(re, im, powers = new Float64Array(SPEECH_BANDS)) {
    for (let b = 0; b < SPEECH_BANDS; b++) {
      let sum = 0;
      for (let k = this.bands[b]; k < this.bands[b + 1]; k++) sum += re[k] * re[k] + im[k] * im[k];
      powers[b] = sum;
    }
    return powers;
  }

  /** Talk with pauses between pieces, level about -20 dBFS, and its codec floor. */
  #talk(length) {
    const { sound, floor } = this.voices[Math.floor(this.#between(0, this.voices.length - 1e-6))];
    const out = new Float32Array(length);
    let at = Math.round(this.#between(-1, 0.6) * RATE_HZ);
    while (at < length) {
      const piece = Math.round(this.#between(0.5, 2.5) * RATE_HZ);
      const from = Math.floor(this.#between(0, sound.length - piece));
      for (let n = 0; n < piece; n++) {
        const edge = Math.min(1, n / 400, (piece - n) / 400);
        if (at + n >= 0 && at + n < length) out[at + n] = sound[from + n] * edge;
      }
      at += piece + Math.round(this.#between(0.05, 0.8) * RATE_HZ);
    }
    let power = 0,
      count = 0;
    for (let n = 0; n < length; n += 1)
      if (Math.abs(out[n]) > 0.004) {
        power += out[n] ** 2;
        count++;
      }
    const gain = count === 0 ? 0 : 0.1 / Math.sqrt(power / count);
    for (let n = 0; n < length; n++) out[n] *= gain;
    return { out, floor: floor.map((p) => p * gain * gain) };
  }

  /** Coloured noise by overlapped frames of random phase under a random envelope. */
  #noise(length) {
    const { next } = this;
    const tilt = this.#between(-9, 1);
    const points = Array.from({ length: 14 }, () => this.#between(-9, 9));
    const envelope = Float64Array.from({ length: BINS }, (_, k) => {
      const octave = Math.log2((Math.max(1, k) * (RATE_HZ / SIZE)) / 60);
      const place = Math.max(0, Math.min(12.99, (octave / 7.7) * 13));
      const at = Math.floor(place);
      return 10 ** ((tilt * octave + points[at] + (points[at + 1] - points[at]) * (place - at)) / 20);
    });
    const { frame, re, im } = this.fft;
    const out = new Float32Array(length);
    const flutter = next() > 0.5 ? this.#between(0.5, 3) : 0;
    for (let at = -SIZE; at < length; at += SIZE / 2) {
      const gain = 10 ** ((flutter * this.#gauss()) / 20);
      for (let k = 0; k < BINS; k++) {
        re[k] = envelope[k] * this.#gauss();
        im[k] = envelope[k] * this.#gauss();
      }
      this.fft.inverse();
      for (let n = 0; n < SIZE; n++) if (at + n >= 0 && at + n < length) out[at + n] += gain * frame[n] * analysis[n];
    }
    let power = 0;
    for (const x of out) power += x * x;
    const scale = 1 / Math.sqrt(power / length);
    const tones = next() > 0.3 ? Math.ceil(this.#between(0, 6)) : 0;
    const base = this.#between(40, 400);
    const lines = Array.from({ length: tones }, (_, i) => [
      (2 * Math.PI * base * (next() > 0 ? i + 1 : this.#between(1, 12))) / RATE_HZ,
      10 ** (this.#between(-25, 0) / 20),
    ]);
    const drift = next() > 0.3 ? this.#between(-3, 3) : 0;
    const driftRate = (this.#between(0.1, 0.5) * 2 * Math.PI) / RATE_HZ;
    const phase = this.#between(0, 6);
    for (let n = 0; n < length; n++) {
      let x = out[n] * scale;
      for (const [w, amplitude] of lines) x += amplitude * Math.sin(w * n);
      out[n] = x * 10 ** ((drift * Math.sin(driftRate * n + phase)) / 20);
    }
    return out;
  }

  /** One sequence: writes features and shares into x and target at [step][batch][band], for batch row b of `batch`. */
  write(x, target, steps, batch, b) {
    const length = steps * HOP + SIZE;
    const { out: talk, floor } = this.#talk(length);
    const profileFrames = Math.round(this.#between(40, 120));
    const noise = this.noises[Math.floor(this.#between(0, NOISES - 1e-6))];
    // The profile is taken behind the stretch that is mixed in; both fit.
    const from = Math.floor(this.#between(0, noise.length - length - profileFrames * HOP - SIZE));
    const level = 0.1 * 10 ** (-this.#between(-3, 28) / 20);
    const profile = new Float64Array(SPEECH_BANDS);
    const { speechPower, re0, im0, bands } = this;
    const { re, im } = this.fft;
    for (let f = 0; f < profileFrames; f += 2) {
      this.#spectrum(noise, from + length + f * HOP);
      this.#bandPowers(re, im, speechPower);
      for (let i = 0; i < SPEECH_BANDS; i++) profile[i] += (speechPower[i] * level * level) / Math.ceil(profileFrames / 2);
    }
    const off = this.next() > 0 ? 10 ** (this.#between(-2, 2) / 10) : 1;
    for (let t = 0; t < steps; t++) {
      this.#spectrum(talk, t * HOP);
      re0.set(re);
      im0.set(im);
      this.#bandPowers(re, im, speechPower);
      this.#spectrum(noise, from + t * HOP);
      for (let i = 0; i < SPEECH_BANDS; i++) {
        let mixed = 0;
        let only = 0;
        for (let k = bands[i]; k < bands[i + 1]; k++) {
          const nr = re[k] * level;
          const ni = im[k] * level;
          only += nr * nr + ni * ni;
          mixed += (re0[k] + nr) ** 2 + (im0[k] + ni) ** 2;
        }
        x[(t * batch + b) * SPEECH_BANDS + i] = bandFeature(mixed, profile[i] * off + 1e-12);
        const clean = Math.max(0, speechPower[i] - floor[i]);
        // Asked for late: the share at step t is that of frame t - LOOK_AHEAD.
        if (t + LOOK_AHEAD < steps) target[((t + LOOK_AHEAD) * batch + b) * SPEECH_BANDS + i] = clean / (clean + only + 1e-12);
      }
    }
    for (let t = 0; t < LOOK_AHEAD; t++) for (let i = 0; i < SPEECH_BANDS; i++) target[(t * batch + b) * SPEECH_BANDS + i] = NaN;
  }
}
