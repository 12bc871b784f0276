import { joined, kernels, mixed, noise, randomNumbers, RATE_HZ, silence, sine } from '../testing/signals.js';
import { judgeNoisePassage } from './judge.js';

const judge = (sound: Float32Array, floorDbfs: number | null = null) => judgeNoisePassage(kernels, [sound], RATE_HZ, floorDbfs);
const swell = (sound: Float32Array): Float32Array => sound.map((x, n) => x * Math.sin((Math.PI * n) / sound.length));
/** Brown noise: a random walk that leaks, at about the level given. */
function brown(level: number, seconds: number): Float32Array {
  let at = 0;
  return noise(level - 14, seconds, 3).map((x) => (at = at * 0.98 + x));
}

test('steady noises are clean: white, brown, with hum', () => {
  for (const sound of [noise(-50, 2), brown(-50, 2), mixed(noise(-50, 2), sine(50, -40, 2)), mixed(noise(-60, 3), sine(237, -50, 3))])
    expect(judge(sound)).toMatchObject({ verdict: 'clean' });
});
test('half a second is short, 0.2 s too short, and the figures are named', () => {
  expect(judge(noise(-50, 0.5)).verdict).toBe('short');
  expect(judge(noise(-50, 0.2))).toMatchObject({ verdict: 'too-short', sentence: expect.stringContaining('0.20 s') });
});
test('a word in it is found by its voice, and the figure is named', () => {
  const word = joined(silence(0.7), swell(mixed(sine(180, -30, 0.3), sine(360, -34, 0.3))), silence(1));
  const { verdict, sentence, riseDb } = judge(mixed(noise(-50, 2), word));
  expect(verdict).toBe('speech');
  expect(riseDb).toBeGreaterThan(10);
  expect(sentence).toContain(`${riseDb.toFixed(1)} dB`);
});
test('a breath is told from speech: it swells without a voice', () => {
  const breath = joined(silence(0.8), swell(noise(-32, 0.4, 7)), silence(0.8));
  expect(judge(mixed(noise(-55, 2), breath))).toMatchObject({ verdict: 'breath', sentence: expect.stringMatching(/0\.[23]\d s/) });
});
test('a click is told, also one that hardly raises the level', () => {
  const sound = noise(-60, 2);
  for (const [n, x] of [
    [48000, 0.06],
    [48001, -0.05],
    [48002, 0.03],
  ] as const)
    sound[n]! += x;
  expect(judge(sound)).toMatchObject({ verdict: 'click', sentence: expect.stringMatching(/\d\d dB above/) });
});
test('a level that drifts by 4 dB over the passage', () => {
  const fading = noise(-50, 3).map((x, n) => x * 10 ** ((-6 * n) / (3 * RATE_HZ) / 20));
  const { verdict, driftDb } = judge(fading);
  expect(verdict).toBe('drifts');
  // From the middle of the first third to that of the last: two thirds of 6 dB.
  expect(driftDb).toBeCloseTo(-4, 0);
});
test('clipped noise, and digital silence', () => {
  const next = randomNumbers(5);
  const clipped = Float32Array.from({ length: 2 * RATE_HZ }, (_, n) =>
    Math.max(-0.3, Math.min(0.3, 0.5 * Math.sin(n / 60) + 0.05 * (next() - 0.5))),
  );
  expect(judge(clipped).verdict).toBe('clipped');
  expect(judge(silence(2)).verdict).toBe('silent');
});
test('a held sound is steady, but not what lies under the words', () => {
  const held = mixed(noise(-50, 2), mixed(sine(220, -24, 2), sine(440, -30, 2)));
  expect(judge(held, -50)).toMatchObject({ verdict: 'loud', sentence: expect.stringContaining('above the floor') });
  expect(judge(noise(-50, 2), -51).verdict).toBe('clean');
});
