import { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, levelOffset, peakLevelCount, PeaksBuilder } from './peaks.js';
import { noise, RATE_HZ } from './testing/signals.js';

function build(samples: Float32Array, blockFrames: number): Float32Array {
  const builder = new PeaksBuilder();
  for (let from = 0; from < samples.length; from += blockFrames) {
    const part = samples.subarray(from, from + blockFrames);
    builder.process([part], part.length);
  }
  return builder.finish();
}

test('every level holds the true extremes and mean square', () => {
  const samples = noise(-20, 3.3, 1);
  const pyramid = build(samples, 1000);
  for (let level = 0; level < peakLevelCount(samples.length); level++) {
    const frames = BUCKET_FRAMES * 4 ** level;
    for (let bucket = 0; bucket < bucketCount(samples.length, level); bucket++) {
      const part = samples.subarray(bucket * frames, (bucket + 1) * frames);
      const at = (levelOffset(samples.length, level) + bucket) * BUCKET_VALUES;
      expect(pyramid[at]).toBe(Math.min(...part));
      expect(pyramid[at + 1]).toBe(Math.max(...part));
      if (bucket < bucketCount(samples.length, level) - 1)
        expect(pyramid[at + 2]).toBeCloseTo(part.reduce((sum, x) => sum + x * x, 0) / part.length, 6);
    }
  }
});

test('an hour takes 8.1 MB + a third, and its overview is in the first kilobyte', () => {
  const frames = 3600 * RATE_HZ;
  expect(levelOffset(frames, 0) + bucketCount(frames, 0)).toBeLessThan(910_000);
  expect(levelOffset(frames, peakLevelCount(frames) - 2)).toBeLessThanOrEqual(64);
});

test('block sizes do not matter, and nothing gives nothing', () => {
  const samples = noise(-20, 0.5, 2);
  expect(build(samples, 77)).toEqual(build(samples, 4096));
  expect(build(new Float32Array(0), 10).length).toBe(0);
});
