import { conformance } from '../../testing/conformance.js';
import { kernels, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { highPass } from './high-pass.js';

const create = (cutoffHz: number, slopeDbPerOctave: number, channels = 1) =>
  highPass.create({ sampleRateHz: RATE_HZ, channels, kernels }, { cutoffHz, slopeDbPerOctave });

describe('conformance', () => conformance(() => create(80, 24, 2)));

// Butterworth closed form, |H|² = 1 / (1 + (fc/f)^2n), with n = slope / 6.
test.each([6, 12, 18, 24, 30, 36, 42, 48])('%i dB/oct lowers the octave below by the closed form', (slope) => {
  const n = slope / 6;
  for (const hz of [50, 100, 400]) {
    const out = run(create(100, slope), [sine(hz, -6, 2)])[0]!;
    expect(toneDb(out, hz, 48000)).toBeCloseTo(-6 - 10 * Math.log10(1 + (100 / hz) ** (2 * n)), 1);
  }
});

test('a moved cutoff is heard within 100 ms; another slope asks for a new processor', () => {
  const filter = create(40, 24);
  run(filter, [sine(100, -6, 0.5)]);
  expect(filter.setParameters({ cutoffHz: 300, slopeDbPerOctave: 24 })).toBe(true);
  const out = run(filter, [sine(100, -6, 0.5)])[0]!;
  expect(toneDb(out, 100, 4800, 9600)).toBeLessThan(-30);
  expect(filter.setParameters({ cutoffHz: 300, slopeDbPerOctave: 12 })).toBe(false);
});
