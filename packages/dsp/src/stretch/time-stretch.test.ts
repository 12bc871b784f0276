import fc from 'fast-check';
import type { PlanarBlock } from '../processor.js';
import { joined, levelDb, noise, RATE_HZ, sine, toneDb, voice } from '../testing/signals.js';
import { TimeStretch } from './time-stretch.js';

/** Plays all of a sound at a speed, in blocks. */
function played(
  sound: readonly Float32Array[],
  speed: number,
  blockFrames = 128,
  change?: (stretch: TimeStretch, block: number) => void,
): Float32Array[] {
  const stretch = new TimeStretch(RATE_HZ, sound.length);
  stretch.setSpeed(speed);
  let at = 0;
  const pull = (into: PlanarBlock, frames: number): void => {
    for (let c = 0; c < sound.length; c++) for (let n = 0; n < frames; n++) into[c]![n] = sound[c]![at + n] ?? 0;
    at += frames;
  };
  const blocks = Math.floor(sound[0]!.length / speed / blockFrames);
  const out = sound.map(() => new Float32Array(blocks * blockFrames));
  for (let b = 0; b < blocks; b++) {
    change?.(stretch, b);
    stretch.process(
      out.map((samples) => samples.subarray(b * blockFrames, (b + 1) * blockFrames)),
      blockFrames,
      pull,
    );
  }
  return out;
}
const steepest = (x: Float32Array): number => x.reduce((most, v, n) => (n === 0 ? 0 : Math.max(most, Math.abs(v - x[n - 1]!))), 0);

describe('playing faster and slower', () => {
  test.each([0.5, 0.75, 1.25, 1.5, 2])('at %s x a tone keeps its pitch and its level, and lasts as long as it should', (speed) => {
    const [out] = played([sine(440, -12, 4)], speed);
    expect(out!.length).toBeCloseTo((4 * RATE_HZ) / speed, -3);
    const from = RATE_HZ / 4;
    expect(toneDb(out!, 440, from, from + RATE_HZ)).toBeCloseTo(-12, 0);
    expect(toneDb(out!, 440 * speed, from, from + RATE_HZ)).toBeLessThan(-45);
    expect(levelDb(out!, from, from + RATE_HZ)).toBeCloseTo(-15, 0);
    expect(steepest(out!.subarray(from))).toBeLessThan(1.15 * steepest(sine(440, -12, 1)));
  });

  test.each([0.5, 1.5, 2])('at %s x speech is as loud, and as rough, as it was', (speed) => {
    const sound = voice(6, 130);
    const [out] = played([sound], speed);
    expect(levelDb(out!) - levelDb(sound)).toBeGreaterThan(-0.7);
    expect(levelDb(out!) - levelDb(sound)).toBeLessThan(0.7);
    expect(steepest(out!)).toBeLessThan(1.3 * steepest(sound));
  });

  test('an event is heard when its time has come', () => {
    const sound = joined(new Float32Array(2 * RATE_HZ), noise(-20, 0.2), new Float32Array(RATE_HZ));
    for (const speed of [0.5, 2]) {
      const [out] = played([sound], speed);
      const onset = out!.findIndex((x) => Math.abs(x) > 0.05) / RATE_HZ;
      expect(Math.abs(onset - 2 / speed)).toBeLessThan(0.03);
    }
  });

  test('both channels move together', () => {
    const left = noise(-20, 2, 3);
    const [a, b] = played([left, left.map((x) => -x / 2)], 1.5);
    expect(a!.reduce((most, x, n) => Math.max(most, Math.abs(x + 2 * b![n]!)), 0)).toBeLessThan(1e-5);
  });

  test('at its own speed it is the sound to the bit; after a change back it is the sound again, a little late, without a click', () => {
    const sound = voice(3, 150);
    expect(played([sound], 1)[0]).toEqual(sound.subarray(0, played([sound], 1)[0]!.length));
    const [out] = played([sound], 1, 128, (stretch, block) => stretch.setSpeed(block > 200 && block < 500 ? 0.5 : 1));
    expect(steepest(out!)).toBeLessThan(1.3 * steepest(sound));
    // What comes last is a stretch of the sound as it is.
    const last = out!.subarray(out!.length - 4000);
    let least = Infinity;
    for (let lag = 0; lag < RATE_HZ; lag++) {
      let off = 0;
      for (let n = 0; n < 4000; n += 40) off += Math.abs(last[n]! - (sound[out!.length - 4000 - lag + n] ?? 0));
      least = Math.min(least, off);
    }
    expect(least).toBeLessThan(1e-3);
  });

  test('the same samples in blocks of any length', () => {
    const sound = voice(1.2, 180);
    const [whole] = played([sound], 1.5, 128);
    fc.assert(
      fc.property(fc.integer({ min: 16, max: 900 }), (blockFrames) => {
        const [out] = played([sound], 1.5, blockFrames);
        const length = Math.min(whole!.length, out!.length);
        expect(out!.subarray(0, length)).toEqual(whole!.subarray(0, length));
      }),
      { numRuns: 12 },
    );
  });

  test('what was pulled ahead is told', () => {
    const stretch = new TimeStretch(RATE_HZ, 1);
    stretch.setSpeed(2);
    let pulled = 0;
    const block = [new Float32Array(128)];
    for (let b = 0; b < 400; b++) stretch.process(block, 128, (_, frames) => void (pulled += frames));
    expect(Math.abs(pulled - stretch.aheadFrames - 400 * 128 * 2)).toBeLessThan(0.03 * RATE_HZ);
  });
});
