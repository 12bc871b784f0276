import { defaultValues } from '../definition.js';
import { NoiseReductionProcessor } from './noise-reduction-processor.js';
import { noiseReduction, type NoiseReductionValues } from './noise-reduction.js';
import { RealFft } from '../../kernels/real-fft.js';
import { analysisWindow } from '../../spectrum/window.js';
import { joined, kernels, noise, RATE_HZ, silence, voice } from '../../testing/signals.js';
import { kneeOf, measurePrice, suggestionOf } from './price.js';
import { takeNoiseProfile } from '../../noise/profile.js';
import { SPEECH_LOOK_AHEAD } from '../../noise/speech-model.js';

const SIZE = 2048;
const HOP = SIZE / 4;
const values = defaultValues(noiseReduction) as unknown as NoiseReductionValues;
const contextOf = (level: number) => ({
  sampleRateHz: RATE_HZ,
  channels: 1,
  kernels,
  noiseProfile: takeNoiseProfile(kernels, [noise(level, 2, 1)], RATE_HZ),
});
const talk = joined(silence(1.5), voice(4, 130));

/** The loss by shadow filtering: the known voice through the gains that the mix was given, frame by frame. */
function trueLossDb(heard: Float32Array, level: number, reductionDb: number): number {
  const processor = new NoiseReductionProcessor(contextOf(level), { ...values, reductionDb });
  const fft = new RealFft(kernels, SIZE);
  const window = analysisWindow(SIZE);
  const out = [new Float32Array(HOP)];
  let lost = 0;
  let all = 0;
  for (let f = 0; (f + 1) * HOP <= heard.length; f++) {
    processor.process([heard.subarray(f * HOP, (f + 1) * HOP)], out, HOP);
    const end = (f + 1 - SPEECH_LOOK_AHEAD) * HOP;
    if (end < RATE_HZ) continue;
    for (let n = 0; n < SIZE; n++) fft.frame[n] = (talk[end - SIZE + n] ?? 0) * window[n]!;
    fft.forward();
    const { gain } = processor.insight(0);
    for (let k = 1; k <= SIZE / 2; k++) {
      const speech = fft.re[k]! ** 2 + fft.im[k]! ** 2;
      lost += (1 - gain[k]!) ** 2 * speech;
      all += speech;
    }
  }
  return 10 * Math.log10(lost / all);
}

test.each([
  [-46, 8],
  [-46, 15],
  [-40, 12],
])('known voice and noise of %d dBFS, %d dB of reduction: the loss told is within 1.5 dB of the true one', (level, reductionDb) => {
  const hiss = noise(level, talk.length / RATE_HZ, 5);
  const heard = talk.map((x, n) => x + hiss[n]!);
  const { points } = measurePrice(contextOf(level), values, [heard], RATE_HZ);
  expect(Math.abs(points[reductionDb]!.speechLossDb - trueLossDb(heard, level, reductionDb))).toBeLessThan(1.5);
});

test('noise taken is what is asked for where nobody talks; both only grow with the depth', () => {
  const hiss = noise(-50, talk.length / RATE_HZ, 6);
  const { points, knee } = measurePrice(contextOf(-50), values, [talk.map((x, n) => x + hiss[n]!)], RATE_HZ / 2);
  expect(points[0]).toMatchObject({ reductionDb: 0, noiseTakenDb: expect.closeTo(0, 5), speechLossDb: -80 });
  expect(points[12]!.noiseTakenDb).toBeGreaterThan(10.5);
  expect(points[12]!.noiseTakenDb).toBeLessThan(12.5);
  for (let r = 1; r < points.length; r++) {
    expect(points[r]!.noiseTakenDb).toBeGreaterThanOrEqual(points[r - 1]!.noiseTakenDb);
    expect(points[r]!.speechLossDb).toBeGreaterThanOrEqual(points[r - 1]!.speechLossDb);
  }
  expect(knee).toBeGreaterThan(0);
  expect(knee).toBeLessThan(40);
});

test('the knee of two straight lines is where they meet', () => {
  const points = Array.from({ length: 41 }, (_, r) => ({
    reductionDb: r,
    noiseTakenDb: r,
    speechLossDb: 20 * Math.log10(0.001 + (r < 10 ? r : 10 + (r - 10) / 20) / 100),
  }));
  expect(kneeOf(points)).toBe(10);
});

test('suggested is the deepest up to 18 dB that is hardly heard; where all cost more, the bend', () => {
  const points = (loss: (r: number) => number) =>
    Array.from({ length: 41 }, (_, r) => ({ reductionDb: r, noiseTakenDb: r, speechLossDb: loss(r) }));
  expect(suggestionOf(points(() => -30))).toBe(18);
  expect(suggestionOf(points((r) => -32 + r))).toBe(12);
  const dear = points((r) => (r === 0 ? -80 : -10 - 5 / r));
  expect(suggestionOf(dear)).toBe(kneeOf(dear));
});

test('where the voice is heard in what is removed is pointed at: a soft stretch near the noise, not the clear talk around it', () => {
  const [from, to] = [3 * RATE_HZ, 4 * RATE_HZ];
  const soft = talk.map((x, n) => (n >= from && n < to ? x / 20 : x));
  const hiss = noise(-52, talk.length / RATE_HZ, 5);
  const heard = soft.map((x, n) => x + hiss[n]!);
  const deep = { ...values, reductionDb: 24, thresholdDb: 9 };
  const { losses } = measurePrice(contextOf(-52), deep, [heard], RATE_HZ);
  const inSoft = losses.filter(({ startFrame, endFrame }) => startFrame + RATE_HZ < to && endFrame + RATE_HZ > from);
  const frames = (list: typeof losses): number => list.reduce((sum, { startFrame, endFrame }) => sum + endFrame - startFrame, 0);
  expect(frames(inSoft)).toBeGreaterThan(0.2 * RATE_HZ);
  expect(frames(losses) - frames(inSoft)).toBeLessThan(0.15 * RATE_HZ);
  for (const { lossDb } of inSoft) expect(lossDb).toBeGreaterThan(-13);
  // A tenth of the amplitude is no word that is heard.
  expect(measurePrice(contextOf(-52), { ...values, reductionDb: 1 }, [heard], RATE_HZ).losses).toEqual([]);
});
