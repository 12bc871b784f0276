import { parseChain } from '@euphonos/dsp';
import { context } from '../testing/listening.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, sine } from '../../../dsp/src/testing/signals.js';
import { plainClip } from '../document/clip.js';
import { cutSpans } from '../document/clip-edits.js';
import { runThrough } from '../offline/run-through.js';
import { fresh, reelOf, trackOf } from '../testing/documents.js';
import { alignCuts } from './align-cuts.js';
import { readArranged } from './arranged-sound.js';
import { endOf } from './places.js';

/** A mains hum of several harmonics in a room. */
const sound = mixed(mixed(sine(50, -30, 12), sine(100, -36, 12)), mixed(sine(150, -40, 12), noise(-75, 12, 3)));
const LENGTH = sound.length;
const read = (from: number, to: number) => Promise.resolve([sound.subarray(from, to)]);
const track = { ...trackOf(fresh()), reel: reelOf(LENGTH), clips: [plainClip('c1', 0, { startFrame: 0, endFrame: LENGTH })] };
/** Cuts whose lengths are no periods of the hum. */
const spans = [1.5, 3.1, 4.7, 6.3, 7.9].map((at, i) => ({
  startFrame: Math.round(at * RATE_HZ),
  endFrame: Math.round((at + 0.4) * RATE_HZ) + 137 * (i + 1),
}));
const notched = async (cuts: typeof spans): Promise<Float32Array> => {
  const { clips } = cutSpans(track, cuts, true);
  const [arranged] = await readArranged(
    { clips, recordingFrames: LENGTH, sampleRateHz: RATE_HZ, tone: null, kernels },
    1,
    read,
    0,
    endOf(clips),
  );
  return runThrough(context, parseChain({ treatments: [{ kind: 'hum-notch' }] }), [arranged!])[0]!;
};

test('a hum goes on over the joints: its notches do not ring', async () => {
  const aligned = await alignCuts(spans, read, RATE_HZ, LENGTH);
  const [plain, kept] = [await notched(spans), await notched(aligned)];
  // After the first second, in which the filters settle.
  const from = 2 * RATE_HZ - 20_000;
  expect(levelDb(plain, from, plain.length) - levelDb(kept, from, kept.length)).toBeGreaterThan(10);
  for (const [i, { startFrame, endFrame }] of aligned.entries()) {
    expect(startFrame).toBe(spans[i]!.startFrame);
    expect(Math.abs(endFrame - spans[i]!.endFrame)).toBeLessThanOrEqual(480);
  }
});

test('what is too short, or at an end, is left as it is', async () => {
  const odd = [
    { startFrame: 0, endFrame: 48_000 },
    { startFrame: 60_000, endFrame: 61_000 },
    { startFrame: LENGTH - 20_000, endFrame: LENGTH },
  ];
  expect(await alignCuts(odd, read, RATE_HZ, LENGTH)).toEqual(odd);
});
