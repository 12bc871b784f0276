import { kernels, levelDb, mixed, noise, RATE_HZ, silence } from '../testing/signals.js';
import { Suppressor, SUPPRESSOR_DELAY, SUPPRESSOR_FRAME } from './suppressor.js';

/** The whole sound through it, frame by frame, without its delay. */
function through(sound: Float32Array, suppressor = new Suppressor(kernels)): Float32Array {
  const out = new Float32Array(sound.length + SUPPRESSOR_FRAME);
  for (let from = 0; from + SUPPRESSOR_FRAME <= sound.length; from += SUPPRESSOR_FRAME) {
    const frame = sound.slice(from, from + SUPPRESSOR_FRAME);
    suppressor.process(frame);
    out.set(frame, from);
  }
  return out.subarray(SUPPRESSOR_DELAY, SUPPRESSOR_DELAY + sound.length);
}

test('coloured noise alone is lowered by far (white noise hardly: see voice-aid), silence stays silence', () => {
  let low = 0;
  const hiss = noise(-30, 6, 3).map((x) => (low += 0.05 * (x - low)));
  expect(levelDb(through(hiss), 4 * RATE_HZ, 5.5 * RATE_HZ)).toBeLessThan(levelDb(hiss) - 12);
  expect(levelDb(through(silence(1)))).toBeLessThan(-100);
});

test('its delay is one frame: what passes lies on what went in', () => {
  // A chirp of harmonics, which it takes for a voice in part: the correlation peaks where they lie on each other.
  let phase = 0;
  const sung = Float32Array.from({ length: 3 * RATE_HZ }, (_, n) => {
    phase += (2 * Math.PI * (140 + 30 * Math.sin((2 * Math.PI * 1.5 * n) / RATE_HZ))) / RATE_HZ;
    return (
      0.05 *
      [1, 2, 3, 4, 5, 6].reduce((sum, k) => sum + Math.sin(k * phase) / k, 0) *
      (0.6 + 0.4 * Math.sin((2 * Math.PI * 4 * n) / RATE_HZ))
    );
  });
  const out = through(mixed(sung, noise(-60, 3, 4)));
  const match = (lag: number): number => {
    let sum = 0;
    for (let n = RATE_HZ; n < 2 * RATE_HZ; n++) sum += sung[n]! * out[n + lag]!;
    return sum;
  };
  const best = Array.from({ length: 81 }, (_, i) => i - 40).reduce((a, b) => (match(b) > match(a) ? b : a));
  expect(Math.abs(best)).toBeLessThanOrEqual(6);
});

test('reset is as good as new', () => {
  const suppressor = new Suppressor(kernels);
  const hiss = noise(-30, 1, 5);
  const first = through(hiss, suppressor).slice();
  suppressor.reset();
  expect(through(hiss, suppressor)).toEqual(first);
});
