import { makeRoomTone, parseChain } from '@euphonos/dsp';
import fc from 'fast-check';
import { kernels, levelDb, mixed, noise, RATE_HZ, sine, toneDb } from '../../../dsp/src/testing/signals.js';
import { plainClip, type Clip } from '../document/clip.js';
import { cutSpans, fillSpans, levelSpans, shapeClip, splitAt } from '../document/clip-edits.js';
import { moveClips } from '../document/clip-moves.js';
import type { Track } from '../document/document.js';
import { fresh, reelOf, trackOf } from '../testing/documents.js';
import { readArranged } from './arranged-sound.js';
import { Levels, lineDb } from './levels.js';
import { endOf } from './places.js';

const sound = mixed(noise(-50, 2, 5), sine(220, -20, 2));
const LENGTH = sound.length;
const track: Track = {
  ...trackOf(fresh()),
  recordingFrames: LENGTH,
  clips: [plainClip('c1', 0, { startFrame: 0, endFrame: LENGTH })],
  roomTone: { startFrame: 0, endFrame: 40_000 },
};
const room = noise(-50, 1, 9);
const tone = makeRoomTone([room], RATE_HZ);
const read = (samples: Float32Array) => (from: number, to: number) => Promise.resolve([samples.subarray(from, to)]);
const span = (startFrame: number, endFrame: number) => ({ startFrame, endFrame });

async function heard(clips: readonly Clip[], from = 0, to = endOf(clips), samples = sound): Promise<Float32Array> {
  const [out] = await readArranged({ clips, recordingFrames: LENGTH, sampleRateHz: RATE_HZ, tone }, 1, read(samples), from, to);
  return out!;
}
const levelled = async (clips: readonly Clip[], samples = sound): Promise<Float32Array> => {
  const out = await heard(clips, 0, endOf(clips), samples);
  Levels.of(clips, LENGTH, RATE_HZ).apply([out], 0, 0, out.length);
  return out;
};
const same = (a: Float32Array, b: Float32Array): boolean =>
  Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(Buffer.from(b.buffer, b.byteOffset, b.byteLength));
const largestStep = (x: Float32Array, from = 1, to = x.length): number => {
  let most = 0;
  for (let n = Math.max(1, from); n < to; n++) most = Math.max(most, Math.abs(x[n]! - x[n - 1]!));
  return most;
};

test('what is not edited is the recording, to the bit; so is what is only split', async () => {
  expect(same(await levelled(track.clips), sound)).toBe(true);
  await fc.assert(
    fc.asyncProperty(fc.array(fc.integer({ min: 1, max: LENGTH - 1 }), { maxLength: 8 }), async (frames) => {
      expect(same(await levelled(splitAt(track, frames).clips), sound)).toBe(true);
    }),
    { numRuns: 20 },
  );
});

test('the same in any pieces: a chunk, a block, a frame', async () => {
  let edited = cutSpans(track, [span(9000, 14_000), span(40_000, 41_000)], true);
  edited = fillSpans(edited, [{ ...span(20_000, 24_000), sound: { kind: 'room-tone', gainDb: 0 } }]);
  edited = cutSpans(edited, [span(60_000, 64_000)], false);
  const whole = await heard(edited.clips);
  const levels = Levels.of(edited.clips, LENGTH, RATE_HZ);
  const gains = new Float32Array(whole.length).fill(1);
  levels.apply([gains], 0, 0, gains.length);
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 0, max: whole.length - 1 }), fc.integer({ min: 1, max: 9000 }), async (from, frames) => {
      const to = Math.min(whole.length, from + frames);
      expect(same(await heard(edited.clips, from, to), whole.slice(from, to))).toBe(true);
      const part = new Float32Array(to - from).fill(1);
      levels.apply([part], 0, from, to - from);
      expect(same(part, gains.slice(from, to))).toBe(true);
      expect(levels.at(from)).toBeCloseTo(gains[from]!, 6);
    }),
    { numRuns: 60 },
  );
});

test('no edge clicks: at cuts, gaps, silences, other gains no step is larger than the signal’s own', async () => {
  const own = largestStep(sound);
  const some = fc.array(
    fc
      .tuple(fc.integer({ min: 600, max: LENGTH - 30_000 }), fc.integer({ min: 600, max: 20_000 }))
      .map(([at, frames]) => span(at, at + frames)),
    { minLength: 1, maxLength: 3 },
  );
  await fc.assert(
    fc.asyncProperty(some, some, some, async (cut, silent, lowered) => {
      const silence = silent.map((item) => ({ ...item, sound: { kind: 'silence' as const } }));
      for (const close of [true, false]) {
        const clips = levelSpans(fillSpans(cutSpans(track, cut, close), silence), lowered, -18).clips;
        // Two tones that meet may point the same way: 3 dB over either.
        expect(largestStep(await levelled(clips))).toBeLessThan(own * 1.42);
      }
    }),
    { numRuns: 25 },
  );
});

test('noise keeps its level over a cut, and over a crossfade of any curve that keeps power', async () => {
  const hiss = noise(-40, 2, 3);
  const cut = cutSpans(track, [span(30_000, 50_000)], true);
  const wide = shapeClip(cut, cut.clips[1]!.id, { fadeIn: { frames: 9600, curve: 'equal-power' } });
  for (const { clips } of [cut, wide]) {
    const out = await levelled(clips, hiss);
    expect(out.length).toBe(LENGTH - 20_000);
    expect(Math.abs(levelDb(out, 27_600, 32_400) - levelDb(hiss, 20_000, 60_000))).toBeLessThan(0.5);
  }
});

test('a gap is silent to the bit, its edges fade', async () => {
  const clips = cutSpans(track, [span(30_000, 50_000)], false).clips;
  const out = await levelled(clips);
  expect(out.subarray(30_000, 50_000).every((x) => x === 0)).toBe(true);
  expect(same(out.slice(0, 29_700), sound.slice(0, 29_700))).toBe(true);
  expect(Math.abs(out[50_001]!)).toBeLessThan(1e-3);
});

test('a span is lowered by what was asked, and nothing around it', async () => {
  const out = await levelled(levelSpans(track, [span(30_000, 50_000)], -12).clips);
  expect(levelDb(out, 31_000, 49_000) - levelDb(sound, 31_000, 49_000)).toBeCloseTo(-12, 3);
  for (const [from, to] of [
    [0, 29_800],
    [50_200, LENGTH],
  ] as const)
    expect(same(out.slice(from, to), sound.slice(from, to))).toBe(true);
});

test('room tone stands in for what was there, at the level asked, without a seam', async () => {
  const clips = fillSpans(track, [{ ...span(30_000, 70_000), sound: { kind: 'room-tone', gainDb: -3 } }]).clips;
  const out = await levelled(clips);
  expect(levelDb(out, 31_000, 69_000) - levelDb(room)).toBeCloseTo(-3, 0);
  expect(largestStep(out, 29_000, 71_000)).toBeLessThan(largestStep(sound) * 1.1);
});

test('a gain line is straight in decibels between its points and level beyond them, wherever the clip is moved or split', async () => {
  const line = [
    { frame: 20_000, gainDb: 0 },
    { frame: 60_000, gainDb: -20 },
  ];
  expect([0, 20_000, 40_000, 60_000, 90_000].map((frame) => lineDb(line, frame))).toEqual([0, 0, -10, -20, -20]);
  const shaped = shapeClip(track, 'c1', { line });
  const out = await levelled(splitAt(shaped, [33_333, 50_001]).clips);
  expect(levelDb(out, 39_900, 40_100) - levelDb(sound, 39_900, 40_100)).toBeCloseTo(-10, 1);
  const moved = Levels.of(moveClips(shaped, ['c1'], 5000).clips, LENGTH, RATE_HZ);
  expect(20 * Math.log10(moved.at(45_000))).toBeCloseTo(-10, 4);
});

test.each([
  ['linear', 0.5],
  ['equal-power', Math.SQRT1_2],
  ['s', 0.5],
] as const)('a fade in, %s: from nothing to all, %f in the middle', (curve, middle) => {
  const levels = Levels.of(
    shapeClip(track, 'c1', { fadeIn: { frames: 20_000, curve }, fadeOut: { frames: 10_000, curve } }).clips,
    LENGTH,
    RATE_HZ,
  );
  expect(levels.at(0)).toBeLessThan(0.001);
  expect(levels.at(10_000)).toBeCloseTo(middle, 3);
  expect(levels.at(LENGTH - 5000)).toBeCloseTo(middle, 3);
  expect([levels.at(20_000), levels.at(LENGTH - 10_000 - 1)]).toEqual([1, 1]);
});

test('ten thousand clips: a second in the middle is read and levelled without going through all of them', async () => {
  const long = { ...track, reel: reelOf(1_000_000), clips: [plainClip('c1', 0, span(0, 1_000_000))] };
  const clips = levelSpans(
    splitAt(
      long,
      Array.from({ length: 9999 }, (_, i) => (i + 1) * 100),
    ),
    [span(48_000, 60_000)],
    -6,
  ).clips;
  expect(clips.length).toBeGreaterThan(9800);
  let reads = 0;
  await readArranged(
    { clips, recordingFrames: 1_000_000, sampleRateHz: RATE_HZ, tone: null },
    1,
    (from, to) => (reads++, read(sound)(from, to)),
    50_000,
    50_900,
  );
  expect(reads).toBeLessThan(20);
});

test('a clip with a chain of its own is treated alone, the same in any pieces; a split of it goes on', async () => {
  const split = splitAt(track, [30_000, 60_000]);
  const own = parseChain({
    treatments: [
      { kind: 'hum-notch', baseHz: 60, harmonics: 1 },
      { kind: 'tone', bands: [{ shape: 'notch', frequencyHz: 220, q: 4 }] },
    ],
  });
  const treated = { ...split, clips: split.clips.map((clip, i) => (i === 1 ? { ...clip, chain: own } : clip)) };
  const all = async (clips: readonly Clip[], from = 0, to = LENGTH): Promise<Float32Array> =>
    (await readArranged({ clips, recordingFrames: LENGTH, sampleRateHz: RATE_HZ, tone: null, kernels }, 1, read(sound), from, to))[0]!;
  const out = await all(treated.clips);
  for (const [from, to] of [
    [0, 29_800],
    [60_200, LENGTH],
  ] as const)
    expect(same(out.slice(from, to), sound.slice(from, to))).toBe(true);
  expect(toneDb(sound, 220, 32_000, 58_000) - toneDb(out, 220, 32_000, 58_000)).toBeGreaterThan(30);
  expect(largestStep(out, 29_500, 60_500)).toBeLessThan(largestStep(sound) * 1.1);
  const part = await all(treated.clips, 40_000, 52_000);
  expect(part.reduce((most, x, n) => Math.max(most, Math.abs(x - out[40_000 + n]!)), 0)).toBeLessThan(10 ** (-90 / 20));
  const again = await all(splitAt(treated, [45_000]).clips);
  expect(again.reduce((most, x, n) => Math.max(most, Math.abs(x - out[n]!)), 0)).toBeLessThan(10 ** (-90 / 20));
});
