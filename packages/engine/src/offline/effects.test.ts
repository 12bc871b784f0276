import { parseChain } from '@euphonos/dsp';
import { joined, kernels, mixed, noise, RATE_HZ, silence, sine } from '../../../dsp/src/testing/signals.js';
import { measureEffects, type TouchedWord } from './effects.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
/** Hum at 50 Hz all along, a "word" at 1 kHz in the second of three seconds. */
const sound = mixed(mixed(joined(silence(1), sine(1000, -12, 1), silence(1)), sine(50, -40, 3)), noise(-80, 3, 1));
const spec = parseChain({
  treatments: [
    { kind: 'hum-notch', id: 'hum', harmonics: 1 },
    { kind: 'high-pass', id: 'off', bypassed: true },
    { kind: 'tone', id: 'tone', bands: [{ shape: 'bell', frequencyHz: 1000, gainDb: -6, q: 1 }] },
  ],
});

test('each treatment by itself: the hum leaves the gaps, the bell lowers the words', () => {
  const [hum, tone, ...none] = measureEffects(context, spec, [sound], RATE_HZ / 2);
  expect(none).toEqual([]);
  expect(hum!.id).toBe('hum');
  expect(hum!.gapsDb).toBeLessThan(-25);
  expect(hum!.wordsDb).toBeCloseTo(0, 1);
  // What is taken out of the words is the hum, 28 dB under them.
  expect(hum!.speechLossDb).toBeCloseTo(-28, 0);
  expect(tone!.wordsDb).toBeCloseTo(-6, 1);
});

test('what is mended is counted once on both sides, and from the passage on', () => {
  const clicked = Float32Array.from(sound);
  for (const at of [20_000, 60_000, 120_000]) for (let n = 0; n < 20; n++) clicked[at + n]! += 0.3 * Math.exp(-n / 5) * Math.cos(0.5 * n);
  const clicks = parseChain({ treatments: [{ kind: 'clicks', id: 'c' }] });
  const [effect] = measureEffects({ ...context, channels: 2, startFrame: 1000 }, clicks, [clicked, clicked.slice()], 40_000);
  // The word itself begins and ends with a step, which is a click too.
  expect(
    effect!.events.map(({ startFrame }) => Math.round((startFrame - 1000) / 1000) * 1000).filter((frame) => frame % 48_000 > 0),
  ).toEqual([60_000, 120_000]);
});

test('what waits for a profile has no effect to tell', () => {
  expect(measureEffects(context, parseChain({ treatments: [{ kind: 'noise-reduction', id: 'n' }] }), [sound], 0)).toEqual([]);
});

test('a gate that closes on a soft word is told, with its place; one that opens in time is not', () => {
  // Loud, then soft from 1.5 s on (-38 dBFS), over noise of -70.
  const words = mixed(joined(silence(0.5), sine(500, -12, 1), sine(500, -35, 1), silence(0.5)), noise(-70, 3, 5));
  const gate = (openDb: number, closeDb: number) => parseChain({ treatments: [{ kind: 'gate', id: 'g', openDb, closeDb, rangeDb: 20 }] });
  const [late] = measureEffects({ ...context, startFrame: 5000 }, gate(-20, -25), [words], 0);
  expect(late!.touched.length).toBe(1);
  const [{ startFrame, endFrame, loweredDb }] = late!.touched as [TouchedWord];
  // Hold (200 ms) and some release after the change; then to the end of the word.
  expect((startFrame - 5000) / RATE_HZ).toBeGreaterThan(1.65);
  expect((startFrame - 5000) / RATE_HZ).toBeLessThan(1.95);
  expect(Math.abs((endFrame - 5000) / RATE_HZ - 2.5)).toBeLessThan(0.11);
  expect(loweredDb).toBeCloseTo(20, 0);
  expect(measureEffects(context, gate(-46, -50), [words], 0)[0]!.touched).toEqual([]);
});
