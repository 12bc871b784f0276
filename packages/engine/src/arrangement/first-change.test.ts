import * as fc from 'fast-check';
import { plainClip, type Clip } from '../document/clip.js';
import { readArranged } from './arranged-sound.js';
import { firstChange } from './first-change.js';

const RATE = 8000;
const FRAMES = 16_000;
const sound = Float32Array.from({ length: FRAMES }, (_, n) => Math.sin(n * n * 0.0001));
const read = async (from: number, to: number): Promise<Float32Array[]> => [sound.subarray(from, to)];
const heard = async (clips: readonly Clip[]): Promise<Float32Array> =>
  (await readArranged({ clips, recordingFrames: FRAMES, sampleRateHz: RATE, tone: null }, 1, read, 0, FRAMES))[0]!;
const whole = [plainClip('a', 0, { startFrame: 0, endFrame: FRAMES })];

test('the same clips do not differ, however they are split', () => {
  const split = [plainClip('a', 0, { startFrame: 0, endFrame: 5000 }), plainClip('b', 5000, { startFrame: 5000, endFrame: FRAMES })];
  expect(firstChange(whole, split, RATE, FRAMES)).toBe(Infinity);
});

test('a cut in the middle leaves all before it, up to its fade', () => {
  const cut = [plainClip('a', 0, { startFrame: 0, endFrame: 5000 }), plainClip('b', 5000, { startFrame: 7000, endFrame: FRAMES })];
  const from = firstChange(whole, cut, RATE, FRAMES);
  expect(from).toBeLessThanOrEqual(5000);
  expect(from).toBeGreaterThan(4900);
});

test('up to the frame told, any two arrangements sound the same to the bit', async () => {
  const clip = fc.record({
    gap: fc.constantFrom(0, 0, 400),
    at: fc.integer({ min: 0, max: 4 }),
    length: fc.integer({ min: 50, max: 3000 }),
    fade: fc.constantFrom(0, 30, 200),
  });
  const clips = fc.array(clip, { minLength: 1, maxLength: 5 }).map((list) => {
    let frame = 0;
    return list.map(({ gap, at, length, fade }, i): Clip => {
      frame += gap;
      const made = {
        ...plainClip(`c${i}`, frame, { startFrame: frame === 0 ? 0 : 1000 * at, endFrame: (frame === 0 ? 0 : 1000 * at) + length }),
        fadeIn: { frames: Math.min(fade, length >> 1), curve: 's' as const },
      };
      frame += length;
      return made;
    });
  });
  await fc.assert(
    fc.asyncProperty(clips, clips, fc.integer({ min: 0, max: 5 }), async (one, tail, keep) => {
      // Two that share a beginning, as an edit leaves it.
      const other = [
        ...one.slice(0, keep),
        ...tail.map((c) => ({
          ...c,
          startFrame: c.startFrame + (keep > 0 && one[keep - 1] ? one[Math.min(keep, one.length) - 1]!.startFrame + 3000 : 0),
        })),
      ];
      const from = firstChange(one, other, RATE, FRAMES);
      const [a, b] = [await heard(one), await heard(other)];
      const differs = a.findIndex((x, n) => x !== b[n]);
      expect(differs < 0 ? Infinity : differs).toBeGreaterThanOrEqual(Math.min(from, FRAMES));
    }),
    { numRuns: 200 },
  );
});
