import { joined, noise, RATE_HZ, silence, sine } from '../testing/signals.js';
import { LevelMeter } from './level-meter.js';

function measure(...channels: Float32Array[]): LevelMeter {
  const meter = new LevelMeter(RATE_HZ, channels.length);
  meter.process(channels, channels[0]!.length);
  return meter;
}

test('RMS and peak of a sine: 3.01 dB apart (a sine is its peak / √2)', () => {
  const meter = measure(sine(1000, -6, 2));
  expect(meter.rmsDbfs).toBeCloseTo(-9.01, 2);
  expect(meter.samplePeakDbfs).toBeCloseTo(-6, 2);
});

test('the floor is the noise between tones, not the digital silence before them', () => {
  const gap = (seed: number): Float32Array => noise(-62, 0.6, seed);
  const word = sine(300, -10, 0.8);
  const floor = measure(joined(silence(1), gap(1), word, gap(2), word, gap(3), word)).noiseFloorDbfs;
  expect(Math.abs(floor + 62)).toBeLessThan(0.5);
});

test('DC offset with its sign, of the worst channel', () => {
  const shifted = noise(-50, 1).map((x) => x - 0.02);
  expect(measure(noise(-50, 1), shifted).dcOffset).toBeCloseTo(-0.02, 3);
});

test('silence', () => {
  const meter = measure(silence(1));
  expect([meter.rmsDbfs, meter.samplePeakDbfs, meter.noiseFloorDbfs]).toEqual([-Infinity, -Infinity, -Infinity]);
});
