import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { KernelModule } from '../kernels/instance.js';
import type { Processor } from '../processor.js';
import { dbToGain, powerToDb } from '../units.js';

/** The compiled kernels, as every host gets them. */
export const kernels: KernelModule = new WebAssembly.Module(readFileSync(join(__dirname, '../../kernels/kernels.wasm')));

export const RATE_HZ = 48000;

// Bound once: looking up a global in the test runner's sandbox costs more than the sine itself.
const { imul, sin, cos, PI } = Math;

/** Uniform numbers from -1 to 1, the same for the same seed (mulberry32). */
export function randomNumbers(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = imul(state ^ (state >>> 15), state | 1);
    t ^= t + imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 31 - 1;
  };
}

/** White Gaussian noise of a given RMS. */
export function noise(levelDbfs: number, seconds: number, seed = 1, sampleRateHz = RATE_HZ): Float32Array {
  const next = randomNumbers(seed);
  const gain = dbToGain(levelDbfs) / 2;
  // Twelve uniform numbers make a nearly Gaussian one of standard deviation 2.
  return Float32Array.from({ length: Math.round(seconds * sampleRateHz) }, () => {
    let sum = 0;
    for (let i = 0; i < 12; i++) sum += next();
    return sum * gain;
  });
}

/** Sine whose peak is at `peakDbfs`. */
export function sine(frequencyHz: number, peakDbfs: number, seconds: number, phaseDegrees = 0, sampleRateHz = RATE_HZ): Float32Array {
  const amplitude = dbToGain(peakDbfs);
  const phase = (phaseDegrees * PI) / 180;
  return Float32Array.from(
    { length: Math.round(seconds * sampleRateHz) },
    (_, n) => amplitude * sin((2 * PI * frequencyHz * n) / sampleRateHz + phase),
  );
}

export const silence = (seconds: number, sampleRateHz = RATE_HZ): Float32Array => new Float32Array(Math.round(seconds * sampleRateHz));

export function joined(...parts: readonly Float32Array[]): Float32Array {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

export const mixed = (a: Float32Array, b: Float32Array): Float32Array => a.map((x, n) => x + b[n]!);

/** RMS in dBFS of samples[from … to). */
export function levelDb(samples: Float32Array, from = 0, to = samples.length): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n]! ** 2;
  return powerToDb(sum / (to - from));
}

/** Amplitude in dBFS of one frequency, by correlation with a Hann-windowed complex exponential. */
export function toneDb(samples: Float32Array, frequencyHz: number, from = 0, to = samples.length, sampleRateHz = RATE_HZ): number {
  let re = 0,
    im = 0,
    weights = 0;
  for (let n = from; n < to; n++) {
    const w = 0.5 - 0.5 * cos((2 * PI * (n - from)) / (to - from));
    re += w * samples[n]! * cos((2 * PI * frequencyHz * n) / sampleRateHz);
    im += w * samples[n]! * sin((2 * PI * frequencyHz * n) / sampleRateHz);
    weights += w;
  }
  return 20 * Math.log10((2 * Math.hypot(re, im)) / weights);
}

/** Runs samples through a processor in blocks; the latency is taken off, so that output aligns with input. */
export function run(processor: Processor, channels: readonly Float32Array[], blockFrames = 128): Float32Array[] {
  const length = channels[0]!.length;
  const padded = channels.map((samples) => joined(samples, new Float32Array(processor.latencyFrames)));
  const out = padded.map((samples) => new Float32Array(samples.length));
  for (let from = 0; from < length + processor.latencyFrames; from += blockFrames) {
    const to = Math.min(from + blockFrames, length + processor.latencyFrames);
    processor.process(
      padded.map((p) => p.subarray(from, to)),
      out.map((o) => o.subarray(from, to)),
      to - from,
    );
  }
  return out.map((samples) => samples.slice(processor.latencyFrames));
}

/**
 * Something like a voice: pulses at a fundamental through three resonances, in syllables with pauses; -20 dBFS RMS or so
 * while it sounds. Not speech, but with what the treatments listen for: periods, formants, onsets.
 */
export function voice(seconds: number, fundamentalHz = 120, seed = 5, sampleRateHz = RATE_HZ): Float32Array {
  const next = randomNumbers(seed);
  const out = new Float32Array(Math.round(seconds * sampleRateHz));
  const formants = [
    [620, 80],
    [1180, 90],
    [2500, 140],
  ] as const;
  const state = formants.map(() => [0, 0] as [number, number]);
  let phase = 0;
  let syllable = 0;
  let left = 0;
  let sounding = false;
  let pitch = 1;
  let loud = 1;
  let mean = 0;
  for (let n = 0; n < out.length; n++) {
    if (left-- <= 0) {
      sounding = !sounding || next() > 0.4;
      left = Math.round((sounding ? 0.22 + 0.08 * next() : 0.3 + 0.12 * next()) * sampleRateHz);
      syllable = left;
      pitch = 1 + 0.12 * next();
      loud = dbToGain(-4 + 4 * next());
    }
    phase += (fundamentalHz * pitch * (1 + 0.02 * sin((2 * PI * 4.1 * n) / sampleRateHz))) / sampleRateHz;
    const pulse = phase >= 1 ? 1 : 0;
    if (pulse) phase -= 1;
    const excitation = sounding ? (pulse + 0.004 * next()) * Math.max(0, sin((PI * left) / Math.max(1, syllable))) ** 0.5 : 0;
    let y = 0;
    formants.forEach(([hz, widthHz], i) => {
      const r = Math.exp((-PI * widthHz) / sampleRateHz);
      const [a, b] = state[i]!;
      const now = excitation + 2 * r * cos((2 * PI * hz) / sampleRateHz) * a - r * r * b;
      state[i] = [now, a];
      y += now / (i + 1);
    });
    // A mouth gives off no constant pressure.
    mean += 0.003 * (y - mean);
    out[n] = 0.018 * loud * (y - mean);
  }
  return out;
}

/** Signal over what differs from it, in dB, over samples [from … to). */
export function sdrDb(clean: Float32Array, heard: Float32Array, from = 0, to = clean.length): number {
  let signal = 0;
  let rest = 0;
  for (let n = from; n < to; n++) {
    signal += clean[n]! ** 2;
    rest += (clean[n]! - heard[n]!) ** 2;
  }
  return powerToDb(signal / (rest + 1e-30));
}
