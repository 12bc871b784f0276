import { TruePeakKernel, interpolatingTaps } from '../kernels/peak-kernels.js';
import { joined, kernels, noise, RATE_HZ, silence, sine } from '../testing/signals.js';
import { TruePeakMeter } from './true-peak-meter.js';

const { sin, cos, PI, min } = Math;

function truePeak(samples: Float32Array): number {
  const meter = new TruePeakMeter(kernels, 1);
  meter.process([samples], samples.length);
  meter.finish();
  return meter.truePeakDbtp;
}

/** Fades of 10 ms, so that switching on does not add a peak of its own. */
function faded(samples: Float32Array): Float32Array {
  return samples.map((x, n) => x * min(1, n / 480, (samples.length - 1 - n) / 480));
}

describe('EBU Tech 3341 true-peak signals, tolerance +0.2 / -0.4 dB', () => {
  test.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])('case %i: fs/%i at %f° and %f FFS', (_, divisor, phase, amplitude, expected) => {
    const peak = truePeak(faded(sine(RATE_HZ / divisor, 20 * Math.log10(amplitude), 1, phase)));
    expect(peak).toBeLessThanOrEqual(expected + 0.2);
    expect(peak).toBeGreaterThanOrEqual(expected - 0.4);
  });

  // Cases 20 to 23: one period at full scale inside a tone at half scale, made at 4 fs, low-passed, and taken
  // down to fs at each of the four offsets. The low-pass here is a long windowed sinc.
  test.each([20, 21, 22, 23])('case %i: a peak between the samples', (number) => {
    const rate = 4 * RATE_HZ;
    const period = 4 * 4;
    const high = Float64Array.from({ length: rate / 10 }, (_, n) => {
      const middle = rate / 20 - ((rate / 20) % period);
      const amplitude = n >= middle && n < middle + period ? 1 : 0.5;
      return amplitude * sin((2 * PI * n) / period) * min(1, n / 1920, (rate / 10 - 1 - n) / 1920);
    });
    const low = new Float32Array(high.length / 4);
    for (let m = 0; m < low.length; m++) {
      const centre = 4 * m + (number - 20);
      let sum = 0;
      for (let t = -256; t <= 256; t++) {
        const x = t / 4.2;
        const window = 0.5 + 0.5 * cos((PI * t) / 257);
        sum += (high[centre + t] ?? 0) * window * (t === 0 ? 1 : sin(PI * x) / (PI * x));
      }
      low[m] = sum / 4.2;
    }
    const peak = truePeak(low);
    expect(peak).toBeLessThanOrEqual(0.2);
    expect(peak).toBeGreaterThanOrEqual(-0.4);
  });
});

test('the kernel agrees with direct interpolation', () => {
  const samples = noise(-12, 0.05, 5);
  const kernel = new TruePeakKernel(kernels);
  kernel.process(samples, 0, samples.length);
  const rows = [0.25, 0.5, 0.75].map((fraction) => interpolatingTaps(fraction));
  for (let n = 100; n < samples.length - 30; n += 7) {
    let expected = Math.abs(samples[n]!);
    for (const taps of rows) {
      let sum = 0;
      for (let t = 0; t < taps.length; t++) sum += samples[n - taps.length / 2 + 1 + t]! * taps[t]!;
      expected = Math.max(expected, Math.abs(sum));
    }
    expect(kernel.envelope[n + TruePeakKernel.latencyFrames]).toBeCloseTo(expected, 5);
  }
});

test('interpolation is flat to 20 kHz: any phase of a tone reads its peak within 0.35 dB', () => {
  for (const hz of [100, 997, 5003, 11003, 15013, 19997]) {
    const peak = truePeak(faded(sine(hz, -1, 0.5, 33)));
    expect(Math.abs(peak + 1)).toBeLessThan(0.35);
  }
});

test('a last sample at full scale is counted, silence reads nothing', () => {
  expect(truePeak(joined(silence(0.01), Float32Array.of(1)))).toBeGreaterThanOrEqual(0);
  expect(truePeak(silence(0.1))).toBe(-Infinity);
});
