import { cascadeMagnitude } from '../../filters/sections.js';
import { conformance } from '../../testing/conformance.js';
import { kernels, RATE_HZ, run, sine, toneDb } from '../../testing/signals.js';
import { tone, toneSection, type ToneBand } from './tone.js';

const band = (shape: ToneBand['shape'], frequencyHz: number, gainDb: number, q: number): ToneBand => ({ shape, frequencyHz, gainDb, q });
const create = (bands: readonly ToneBand[], channels = 1) => tone.create({ sampleRateHz: RATE_HZ, channels, kernels }, { bands });
const bands = [band('low-shelf', 150, -6, 0.7), band('bell', 2500, 3, 1.2), band('high-shelf', 8000, 2, 0.7)];
const dbAt = (b: ToneBand, hz: number): number => 20 * Math.log10(cascadeMagnitude([toneSection(b, RATE_HZ)], hz, RATE_HZ));

describe('conformance', () => conformance(() => create(bands, 2)));

// R. Bristow-Johnson, Cookbook formulae for audio EQ biquad filter coefficients: what each shape is defined by.
test.each<[ToneBand, number, number]>([
  [band('bell', 1000, 6, 1), 1000, 6],
  [band('bell', 1000, -9, 4), 1000, -9],
  [band('low-shelf', 200, -8, Math.SQRT1_2), 200, -4],
  [band('low-shelf', 200, -8, Math.SQRT1_2), 5, -8],
  [band('high-shelf', 6000, 4, Math.SQRT1_2), 6000, 2],
  [band('high-shelf', 6000, 4, Math.SQRT1_2), 23500, 4],
  [band('low-pass', 3000, 0, Math.SQRT1_2), 3000, -3.0103],
  [band('band-pass', 3000, 0, 2), 3000, 0],
])('%o is as defined at %d Hz: %d dB', (b, hz, db) => {
  expect(dbAt(b, hz)).toBeCloseTo(db, 1);
});

test('a band-pass is 3 dB down at the edges of its width (bilinear, analogue prototype)', () => {
  const [f0, q] = [400, 4];
  for (const side of [1, -1])
    expect(dbAt(band('band-pass', f0, 0, q), f0 * (Math.sqrt(1 + 1 / (4 * q * q)) + side / (2 * q)))).toBeCloseTo(-3.01, 1);
});

test('what comes out is what the chart draws', () => {
  for (const hz of [60, 150, 700, 2500, 12000]) {
    const expected = bands.reduce((sum, b) => sum + dbAt(b, hz), -20);
    expect(toneDb(run(create(bands), [sine(hz, -20, 1)])[0]!, hz, 12000)).toBeCloseTo(expected, 1);
  }
});

test('values glide, another shape or number of bands asks for a new processor', () => {
  const filter = create(bands);
  expect(filter.setParameters({ bands: bands.map((b) => ({ ...b, gainDb: 0 })) })).toBe(true);
  expect(toneDb(run(filter, [sine(100, -20, 1)])[0]!, 100, 24000)).toBeCloseTo(-20, 1);
  expect(filter.setParameters({ bands: bands.slice(1) })).toBe(false);
  expect(filter.setParameters({ bands: [band('notch', 150, 0, 1), ...bands.slice(1)] })).toBe(false);
});
