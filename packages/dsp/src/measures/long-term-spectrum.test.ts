import { butterworthBandPass, cascadeMagnitude } from '../filters/sections.js';
import { joined, mixed, noise, RATE_HZ, silence, sine } from '../testing/signals.js';
import { LongTermSpectrum } from './long-term-spectrum.js';

function spectrumOf(channels: readonly Float32Array[], sampleRateHz = RATE_HZ): ReadonlyMap<number, number> | null {
  const spectrum = new LongTermSpectrum(sampleRateHz);
  for (let from = 0; from < channels[0]!.length; from += 4096) spectrum.process(channels, from, Math.min(channels[0]!.length, from + 4096));
  const bands = spectrum.finish();
  return bands && new Map(bands.map(({ hz, dbfs }) => [hz, dbfs]));
}
const G = 10 ** 0.3;
const exact = (hz: number): number => 1000 * 10 ** (Math.round(10 * Math.log10(hz / 1000)) / 10);

// IEC 61260-1:2014, table 1, class 1 (from memory): least and most attenuation, dB, at these parts of an octave band, brought to a third
// of an octave as it says there.
const LIMITS = [
  [0, -0.4, 0.4],
  [1 / 8, -0.4, 0.5],
  [1 / 4, -0.4, 0.7],
  [3 / 8, -0.4, 1.4],
  [1, 16.6, Infinity],
  [2, 40.5, Infinity],
  [3, 60, Infinity],
] as const;
test.each([1000, 10_000])('the band around %i Hz keeps the limits of class 1', (hz) => {
  const [middle, rate] = [exact(hz), hz === 1000 ? 6000 : RATE_HZ];
  const sections = butterworthBandPass(middle * 10 ** -0.05, middle * 10 ** 0.05, 3, rate);
  const lossDb = (at: number): number => -20 * Math.log10(cascadeMagnitude(sections, at, rate));
  for (const [octaves, least, most] of LIMITS) {
    const part = 1 + ((G ** (1 / 6) - 1) / (G ** (1 / 2) - 1)) * (G ** octaves - 1);
    for (const at of [middle * part, middle / part]) {
      if (at >= rate / 2) continue;
      expect(lossDb(at)).toBeGreaterThanOrEqual(least);
      expect(lossDb(at)).toBeLessThanOrEqual(most);
    }
  }
});

test.each([25, 63, 125, 1000, 4000, 5000, 10_000, 20_000])('a tone of %i Hz is told in its band with its own level', (hz) => {
  const bands = spectrumOf([sine(exact(hz), -17, 4)])!;
  // A sine's RMS lies 3.01 dB under its peak; the lowest filters take a while to swing up.
  expect(Math.abs(bands.get(hz)! + 20)).toBeLessThan(hz < 100 ? 0.6 : 0.2);
  const far = [...bands].filter(([other]) => Math.abs(Math.log10(other / hz)) > 0.25);
  expect(Math.max(...far.map(([, dbfs]) => dbfs))).toBeLessThan(-20 - 20);
});

test.each([RATE_HZ, 44_100, 96_000])('white noise at %i Hz rises by a decibel a band, as wide as they are', (rate) => {
  const bands = spectrumOf([noise(-20, 20, 3, rate)], rate)!;
  for (const [hz, dbfs] of bands) {
    if (hz < 200 || hz > 16_000) continue;
    const width = exact(hz) * (10 ** 0.05 - 10 ** -0.05);
    expect(Math.abs(dbfs - (-20 + 10 * Math.log10(width / (rate / 2))))).toBeLessThan(0.7);
  }
});

test('gaps do not count: the spectrum is that of what is loud', () => {
  const talk = noise(-20, 2);
  const gaps = joined(talk, mixed(silence(6), noise(-70, 6)), talk);
  const [alone, among] = [spectrumOf([talk])!, spectrumOf([gaps])!];
  for (const hz of [125, 500, 2000, 8000]) expect(Math.abs(among.get(hz)! - alone.get(hz)!)).toBeLessThan(0.7);
});

test('silence has none, nor has what is shorter than a step', () => {
  expect(spectrumOf([silence(2), silence(2)])).toBeNull();
  expect(spectrumOf([sine(1000, -20, 0.05)])).toBeNull();
});
