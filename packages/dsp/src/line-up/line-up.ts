import type { KernelModule } from '../kernels/instance.js';
import { Correlator, parabolicTop } from './correlate.js';
import { flattened, rhythmOf, STEP_SECONDS, type ReadableSound } from './envelope.js';

/** How two recordings of one scene lie to each other. */
export interface LineUp {
  /** When the second one begins, on the time of the first. */
  readonly offsetSeconds: number;
  /** By how much the second one's clock is slow against the first's, parts per million: so much longer it must be made. */
  readonly driftPpm: number;
  /** The second one's polarity is the other. */
  readonly inverted: boolean;
  /** 0 … 1 */
  readonly certainty: number;
}

/** Points that are correlated at once. */
const MOST_POINTS = 32_768;
/** Coarse places that are looked at closer. */
const EXCERPT_SECONDS = 0.32;
const EXCERPTS = 24;
/** A true lag lies so near to what the rhythm says, whatever the drift over the length. */
const NEAR_SECONDS = 0.03;
const MOST_DRIFT_PPM = 200;
/** Excerpts that agree within this agree. */
const AGREE_SECONDS = 0.0006;
const WHITENING = 0.75;
const LEAST_AGREEING = 4;

/** Lag of an excerpt in the middle of the second recording at `seconds` of it, and how clear it was. */
interface Sample {
  readonly seconds: number;
  readonly lagSeconds: number;
  readonly clear: number;
  readonly sign: number;
}

/**
 * Finds where one recording lies on the time of another: by their rhythm, first coarsely, then by excerpts of it to the sample
 * (generalised cross-correlation, Knapp & Carter 1976). The excerpts must agree on one line of time: its slope is the drift.
 * null where they share too little.
 */
export async function lineUp(
  kernels: KernelModule,
  sampleRateHz: number,
  first: ReadableSound,
  second: ReadableSound,
): Promise<LineUp | null> {
  const stepFrames = Math.round(STEP_SECONDS * sampleRateHz);
  const [a, b] = [await rhythmOf(first, stepFrames), await rhythmOf(second, stepFrames)];
  const coarse = coarseLag(kernels, a, b, stepFrames / sampleRateHz);
  if (coarse === null) return null;
  const samples = await samplesAt(kernels, sampleRateHz, first, second, b, coarse * STEP_SECONDS);
  return fitted(samples, second.frames / sampleRateHz);
}

/** Steps by which the second one is later, by rhythm alone. */
function coarseLag(kernels: KernelModule, a: Float32Array, b: Float32Array, stepSeconds: number): number | null {
  let times = Math.max(1, Math.ceil((a.length + b.length) / MOST_POINTS));
  if (Math.min(a.length, b.length) < 2 / stepSeconds) return null;
  const correlator = new Correlator(kernels, MOST_POINTS);
  const [x, y] = [flattened(a, times, stepSeconds), flattened(b, times, stepSeconds)];
  let { lag } = correlator.best(x, y, {
    from: -(y.length - 1),
    to: x.length - 1,
    whitening: 0,
    apartFrames: Math.ceil(0.25 / (stepSeconds * times)),
    eitherSign: false,
  });
  // Of long ones the middle of what they share once more, in finer steps.
  while (times > 1) {
    const finer = Math.max(1, Math.floor(times / 8));
    const ratio = times / finer;
    const length = Math.floor(MOST_POINTS / 4);
    const [fx, fy] = [flattened(a, finer, stepSeconds), flattened(b, finer, stepSeconds)];
    const about = Math.round(lag * ratio);
    const from = Math.max(0, -about);
    const to = Math.min(fy.length, fx.length - about);
    const start = Math.max(from, Math.round((from + to) / 2) - length);
    const part = fy.subarray(start, Math.min(to, start + 2 * length));
    const margin = Math.ceil(2 * ratio);
    const begin = Math.max(0, start + about - margin);
    const match = correlator.best(fx.subarray(begin, Math.min(fx.length, start + about + part.length + margin)), part, {
      from: 0,
      to: 2 * margin,
      whitening: 0,
      apartFrames: margin,
      eitherSign: false,
    });
    lag = begin + match.lag - start;
    times = finer;
  }
  return lag;
}

/** Lags of excerpts where most happens, spread over what both share. */
async function samplesAt(
  kernels: KernelModule,
  sampleRateHz: number,
  first: ReadableSound,
  second: ReadableSound,
  rhythm: Float32Array,
  coarseSeconds: number,
): Promise<Sample[]> {
  const frames = Math.round(EXCERPT_SECONDS * sampleRateHz);
  const drift = (MOST_DRIFT_PPM * 1e-6 * Math.max(first.frames, second.frames)) / 2;
  const margin = Math.min(Math.floor((MOST_POINTS - 2 * frames) / 2) - 1, Math.round(NEAR_SECONDS * sampleRateHz + drift));
  const lagFrames = Math.round(coarseSeconds * sampleRateHz);
  const from = Math.max(0, -lagFrames) + margin;
  const to = Math.min(second.frames, first.frames - lagFrames) - frames - margin;
  const correlator = new Correlator(kernels, 2 * frames + 2 * margin);
  const samples: Sample[] = [];
  const stepFrames = Math.round(STEP_SECONDS * sampleRateHz);
  for (let i = 0; i < EXCERPTS && to > from; i++) {
    const [low, high] = [from + ((to - from) * i) / EXCERPTS, from + ((to - from) * (i + 1)) / EXCERPTS];
    const at = loudest(rhythm, Math.floor(low / stepFrames), Math.floor(high / stepFrames), Math.floor(frames / stepFrames)) * stepFrames;
    const part = await second.read(at, at + frames);
    const begin = at + lagFrames - margin;
    const around = await first.read(begin, begin + frames + 2 * margin);
    const match = correlator.best(around, part, {
      from: 0,
      to: 2 * margin,
      whitening: WHITENING,
      apartFrames: Math.round(0.0005 * sampleRateHz),
      eitherSign: true,
    });
    const all = correlator.correlate(around, part, WHITENING);
    const near = match.lag > 0 ? parabolicTop(Math.abs(all[match.lag - 1]!), Math.abs(all[match.lag]!), Math.abs(all[match.lag + 1]!)) : 0;
    samples.push({
      seconds: (at + frames / 2) / sampleRateHz,
      lagSeconds: (begin + match.lag + near - at) / sampleRateHz,
      clear: match.clear,
      sign: Math.sign(match.value),
    });
  }
  return samples;
}

/** Where the sum over so many steps is largest. */
function loudest(rhythm: Float32Array, from: number, to: number, steps: number): number {
  let sum = 0;
  for (let i = from; i < from + steps; i++) sum += rhythm[i] ?? 0;
  let [most, at] = [sum, from];
  for (let i = from + 1; i < to; i++) {
    sum += (rhythm[i + steps - 1] ?? 0) - rhythm[i - 1]!;
    if (sum > most) [most, at] = [sum, i];
  }
  return at;
}

/** The line of time on which most excerpts agree: through two of them, then the mean of all that agree. */
function fitted(samples: readonly Sample[], lengthSeconds: number): LineUp | null {
  let best: readonly Sample[] = [];
  const agreeing = (offset: number, slope: number): Sample[] =>
    samples.filter(({ seconds, lagSeconds }) => Math.abs(lagSeconds - offset - slope * seconds) < AGREE_SECONDS);
  const weight = (list: readonly Sample[]): number => list.reduce((sum, { clear }) => sum + Math.min(2, clear) - 1 + 0.2, 0);
  for (const one of samples)
    for (const other of samples) {
      const apart = other.seconds - one.seconds;
      const slope = one === other ? 0 : (other.lagSeconds - one.lagSeconds) / apart;
      if (Math.abs(slope) > MOST_DRIFT_PPM * 1e-6 || (one !== other && apart < lengthSeconds / 8)) continue;
      const list = agreeing(one.lagSeconds - slope * one.seconds, slope);
      if (weight(list) > weight(best)) best = list;
    }
  if (best.length < LEAST_AGREEING) return null;
  const mean = (pick: (sample: Sample) => number): number => best.reduce((sum, sample) => sum + pick(sample), 0) / best.length;
  const [seconds, lag] = [mean((sample) => sample.seconds), mean((sample) => sample.lagSeconds)];
  const spread = mean((sample) => (sample.seconds - seconds) ** 2);
  const slope = spread > 0 ? mean((sample) => (sample.seconds - seconds) * (sample.lagSeconds - lag)) / spread : 0;
  // Excerpts of one place agree on any slope: what no clock does is no line of time.
  if (Math.abs(slope) > 2e-6 * MOST_DRIFT_PPM) return null;
  const positive = best.filter(({ sign }) => sign > 0).length;
  return {
    offsetSeconds: lag - slope * seconds,
    driftPpm: slope * 1e6,
    inverted: positive < best.length / 2,
    certainty: certaintyOf(best.length / samples.length),
  };
}

/** Chance alone brings two or three of 24 together; a third and more is no chance any more. */
const certaintyOf = (share: number): number => 1 / (1 + Math.exp(-18 * (share - 0.3)));
