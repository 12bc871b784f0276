import { parseChain } from '@euphonos/dsp';
import { joined } from '../../../dsp/src/testing/signals.js';
import { readArranged } from '../arrangement/arranged-sound.js';
import { Levels } from '../arrangement/levels.js';
import { placedChain } from '../arrangement/placed-chain.js';
import { endOf } from '../arrangement/places.js';
import { plainClip, type Clip } from '../document/clip.js';
import { cutSpans, levelSpans } from '../document/clip-edits.js';
import type { Track } from '../document/document.js';
import { chainRun } from '../offline/chain-run.js';
import { fresh, reelOf, trackOf } from '../testing/documents.js';
import { chain, context, createMonitor, full, largestStep, listen, profile, recording, store } from '../testing/listening.js';

const LENGTH = recording.length;
const track: Track = { ...trackOf(fresh()), reel: reelOf(LENGTH), clips: [plainClip('c1', 0, { startFrame: 0, endFrame: LENGTH })] };
const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });
/** A part of the first noise is gone, the word is lowered, a gap is left after it. */
const edited = levelSpans(
  cutSpans(cutSpans(track, [span(10_000, 30_000)], true), [span(100_000, 105_000)], false),
  [span(40_000, 60_000)],
  -9,
);
const levels = Levels.of(edited.clips, LENGTH, context.sampleRateHz);
const read = (from: number, to: number) => Promise.resolve([recording.subarray(from, to)]);
const arranged = async (clips: readonly Clip[]): Promise<Float32Array> =>
  (await readArranged({ clips, recordingFrames: LENGTH, sampleRateHz: 48000, tone: null }, 1, read, 0, endOf(clips)))[0]!;
/** The render: the arranged sound through the chain, then levelled. */
function rendered(samples: Float32Array): Float32Array {
  const parts: Float32Array[] = [];
  const run = chainRun({ ...context, noiseProfile: profile }, full, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([samples], samples.length);
  run.finish();
  const out = joined(...parts);
  levels.apply([out], 0, 0, out.length);
  return out;
}
const differenceDb = (a: Float32Array, b: Float32Array, from: number): number =>
  20 * Math.log10(a.reduce((most, x, n) => Math.max(most, n < from ? 0 : Math.abs(x - (b[n] ?? 0))), 1e-9));

test('clips are heard as they are rendered: cuts, gaps and levels, to -90 dBFS', async () => {
  const sound = await arranged(edited.clips);
  const monitor = createMonitor(full);
  monitor.setSource({ store: store(sound), lengthFrames: sound.length, levels }, full, 0);
  monitor.play(0);
  const { out, frames } = listen(monitor, sound.length / 48000 + 0.3);
  const first = frames.findIndex((frame) => frame >= 0);
  const heard = out.subarray(first * 128 - frames[first]!);
  expect(differenceDb(heard.slice(0, sound.length), rendered(sound), 2000)).toBeLessThan(-90);
});

test('another arrangement while it plays: fades over, and goes on at the place that was told', async () => {
  const sound = await arranged(edited.clips);
  const monitor = createMonitor(chain());
  monitor.play(0);
  const before = listen(monitor, 0.5);
  monitor.setSource({ store: store(sound), lengthFrames: sound.length, levels: null }, chain(), 70_000);
  monitor.setLevels(levels);
  const { out, frames } = listen(monitor, 0.6);
  expect(largestStep(joined(before.out, out))).toBeLessThan(1.05);
  const resumed = frames.find((frame) => frame >= 60_000)!;
  expect([70_000, 70_128]).toContain(resumed);
});

test('a level that moves while it plays does not click', async () => {
  const sound = await arranged(track.clips);
  const monitor = createMonitor(chain(), sound);
  monitor.play(60_000);
  listen(monitor, 0.4);
  const loud = listen(monitor, 0.1).out;
  monitor.setLevels(Levels.of(levelSpans(track, [span(0, LENGTH)], -20).clips, LENGTH, 48000));
  const { out } = listen(monitor, 0.2);
  expect(largestStep(joined(loud, out))).toBeLessThan(1.02);
  const rms = (x: Float32Array): number => Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / x.length);
  expect(rms(out.subarray(4800)) / rms(loud)).toBeLessThan(0.15);
});

test('a chain that names places of the recording follows its sound; times that were cut go with it', () => {
  const spec = parseChain({
    treatments: [
      {
        kind: 'breaths',
        breaths: [
          { startSeconds: 0.3, endSeconds: 0.5, state: 'treat', certaintyPercent: 90 },
          { startSeconds: 1, endSeconds: 1.2, state: 'leave', certaintyPercent: 80 },
        ],
      },
      { kind: 'clicks', exceptions: [{ atSeconds: 1.5 }, { atSeconds: 0.4 }] },
      { kind: 'high-pass' },
    ],
  });
  const cut = cutSpans(track, [span(12_000, 28_800)], true);
  const [breaths, clicks, highPass] = placedChain(spec, cut.clips, 48000).treatments;
  expect(breaths!['breaths']).toMatchObject([{ startSeconds: 0.65, endSeconds: 0.85, state: 'leave' }]);
  expect(clicks!['exceptions']).toMatchObject([{ atSeconds: 1.15 }]);
  expect(highPass).toBe(spec.treatments[2]);
  expect(placedChain(spec, track.clips, 48000)).toBe(spec);
});
