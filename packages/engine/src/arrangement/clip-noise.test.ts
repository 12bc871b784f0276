import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { joined, kernels, levelDb, noise, RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { plainClip } from '../document/clip.js';
import { readArranged, type Arrangement } from './arranged-sound.js';
import type { ClipNoise } from './clip-chain.js';

// A noise that falls by 15 dB in the middle, where a clip with a chain of its own begins.
const [loud, soft] = [noise(-40, 2, 3), noise(-55, 2, 4)];
const recording = joined(loud, soft);
const HALF = loud.length;
const reads = jest.fn();
const read = async (from: number, to: number): Promise<Float32Array[]> => {
  reads();
  return [recording.slice(from, to)];
};
const chain = parseChain({
  treatments: [
    { kind: 'high-pass', cutoffHz: 200 },
    { kind: 'noise-reduction', mode: 'fixed', reductionDb: 18, thresholdDb: 3 },
  ],
});
const clips = [
  plainClip('a', 0, { startFrame: 0, endFrame: HALF }),
  { ...plainClip('b', HALF, { startFrame: HALF, endFrame: 2 * HALF }), chain },
];
const heard = async (known?: ClipNoise): Promise<Float32Array> => {
  const arrangement: Arrangement = { clips, recordingFrames: recording.length, sampleRateHz: RATE_HZ, tone: null, kernels, noise: known };
  return (await readArranged(arrangement, 1, read, 0, 2 * HALF))[0]!;
};
const fall = (out: Float32Array): number =>
  levelDb(soft, RATE_HZ / 2, 1.8 * RATE_HZ) - levelDb(out, HALF + RATE_HZ / 2, HALF + 1.8 * RATE_HZ);
const spans = [{ startFrame: HALF + 4800, endFrame: HALF + 60_000 }];

test('noise reduction in the chain of a clip weighs by the passages of the track, through what stands before it there', async () => {
  const out = await heard(spans);
  expect(fall(out)).toBeGreaterThan(15);
  expect(fall(out)).toBeLessThan(20);
  expect(levelDb(out, 4800, HALF - 4800)).toBeCloseTo(levelDb(loud), 1);
});

test('without a noise that is known it does nothing; a kept profile serves as well', async () => {
  expect(Math.abs(fall(await heard()))).toBeLessThan(0.5);
  expect(Math.abs(fall(await heard([])))).toBeLessThan(0.5);
  expect(fall(await heard(takeNoiseProfile(kernels, [soft], RATE_HZ)))).toBeGreaterThan(15);
});

test('the profile is taken once, however often the clip is read', async () => {
  await heard(spans);
  reads.mockClear();
  const first = await heard(spans);
  expect(reads.mock.calls.length).toBeLessThanOrEqual(2);
  expect(await heard(spans)).toEqual(first);
});
