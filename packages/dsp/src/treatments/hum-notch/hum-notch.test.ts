import { conformance } from '../../testing/conformance.js';
import { kernels, mixed, noise, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { humNotch } from './hum-notch.js';

const create = (baseHz: number, harmonics: number, widthHz: number, channels = 1, sampleRateHz = RATE_HZ) =>
  humNotch.create({ sampleRateHz, channels, kernels }, { baseHz, harmonics, widthHz });

describe('conformance', () => conformance(() => create(50, 4, 3, 2)));

test('lines on the notches fall by 50 dB or more, tones between them by less than 0.3 dB', () => {
  for (const hz of [50, 100, 150, 200]) expect(toneDb(run(create(50, 4, 3), [sine(hz, -20, 3)])[0]!, hz, 96000)).toBeLessThan(-70);
  for (const hz of [75, 125, 250, 1000]) expect(toneDb(run(create(50, 4, 3), [sine(hz, -20, 3)])[0]!, hz, 96000)).toBeGreaterThan(-20.3);
});

test('only as many harmonics as asked', () => {
  const out = run(create(60, 2, 3), [mixed(sine(120, -20, 3), sine(180, -20, 3))])[0]!;
  expect(toneDb(out, 120, 96000)).toBeLessThan(-70);
  expect(toneDb(out, 180, 96000)).toBeCloseTo(-20, 0);
});

test('harmonics above the band are left out instead of failing', () => {
  expect(run(create(1000, 16, 3, 1, 8000), [noise(-30, 0.2)])[0]!.every(Number.isFinite)).toBe(true);
});
