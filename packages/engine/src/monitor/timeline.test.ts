import { createBlock } from '@euphonos/dsp';
import fc from 'fast-check';
import { CHUNK_FRAMES, ChunkStore } from './sample-store.js';
import { SEAM_FRAMES, Timeline } from './timeline.js';

const LENGTH = 3 * CHUNK_FRAMES + 100;
/** Every sample is its own frame number, so that what is read says where it came from. */
function numbered(): ChunkStore {
  const store = new ChunkStore(LENGTH);
  for (let i = 0; i < 4; i++) store.put(i, [Float32Array.from({ length: CHUNK_FRAMES }, (_, n) => i * CHUNK_FRAMES + n)]);
  return store;
}

test('any reader of any position gets the same frames, whatever the block length', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 5000 }),
      fc.integer({ min: 600, max: 4000 }),
      fc.integer({ min: 1, max: 700 }),
      (start, loopFrames, block) => {
        const loop = { startFrame: start, endFrame: start + loopFrames };
        const timeline = new Timeline(1, numbered());
        timeline.anchor(1000, start, loop);
        const whole = createBlock(1, 6000);
        expect(timeline.read(1000, whole, 6000)).toBe(true);
        const part = createBlock(1, block);
        for (const at of [0, 17, 2999, 6000 - block]) {
          expect(timeline.read(1000 + at, part, block)).toBe(true);
          expect(Array.from(part[0]!)).toEqual(Array.from(whole[0]!.subarray(at, at + block)));
        }
      },
    ),
    { numRuns: 60 },
  );
});

test('a loop repeats with its exact length, and only its last frames are blended', () => {
  const timeline = new Timeline(1, numbered());
  const loop = { startFrame: 40_000, endFrame: 41_000 };
  timeline.anchor(0, 40_000, loop);
  const out = createBlock(1, 3000);
  timeline.read(0, out, 3000);
  for (const n of [0, 500, 1000 - SEAM_FRAMES - 1]) {
    expect(out[0]![n]).toBe(40_000 + n);
    expect(out[0]![n + 1000]).toBe(40_000 + n);
  }
  expect(timeline.frameAt(2500)).toBe(40_500);
});

test('playing that starts behind the loop runs on', () => {
  const timeline = new Timeline(1, numbered());
  timeline.anchor(0, 2000, { startFrame: 1000, endFrame: 1500 });
  expect(timeline.frameAt(700)).toBe(2700);
});

test('a chunk that is not there yet is said, not made up; beyond the end there is silence', () => {
  const store = new ChunkStore(LENGTH);
  store.put(0, [new Float32Array(CHUNK_FRAMES).fill(1)]);
  const timeline = new Timeline(1, store);
  timeline.anchor(0, 0, null);
  const out = createBlock(1, 200);
  expect(timeline.read(100, out, 200)).toBe(true);
  expect(timeline.read(CHUNK_FRAMES - 100, out, 200)).toBe(false);
  const end = new Timeline(1, numbered());
  end.anchor(0, LENGTH - 50, null);
  expect(end.read(0, out, 200)).toBe(true);
  expect(out[0]![49]).toBe(LENGTH - 1);
  expect(out[0]![50]).toBe(0);
});
