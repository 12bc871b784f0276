import { bellSection } from '../filters/sections.js';
import { Cascade } from '../filters/cascade.js';
import { kernels, mixed, noise, RATE_HZ, sine } from '../testing/signals.js';
import { compareProfiles, profileLines } from './profile-lines.js';
import { takeNoiseProfile } from './profile.js';

const of = (sound: Float32Array, rate = RATE_HZ) => takeNoiseProfile(kernels, [sound], rate);
const hz = Array.from({ length: 120 }, (_, i) => 60 * (20000 / 60) ** (i / 119));

test('white noise of -40 dBFS lies at -83.8 dB per hertz everywhere; single frames spread 5.6 dB around 2.5 dB less', () => {
  const { smoothDb, lowDb, highDb, levelDb } = profileLines(of(noise(-40, 20, 1)), hz);
  for (let i = 40; i < hz.length; i++) {
    expect(Math.abs(smoothDb[i]! + 83.8)).toBeLessThan(0.4);
    // Exponential distribution: 10/ln 10 · Euler's γ and · π/√6.
    expect(Math.abs((lowDb[i]! + highDb[i]!) / 2 - (-83.8 - 2.51))).toBeLessThan(1.2);
    expect(Math.abs((highDb[i]! - lowDb[i]!) / 2 - 5.57)).toBeLessThan(1);
    expect(levelDb[i]!).toBeGreaterThan(-84.8);
  }
});

test('a tone stands in the level, not in the smooth line', () => {
  const { smoothDb, levelDb } = profileLines(of(mixed(noise(-40, 8, 1), sine(4000, -60, 8))), hz);
  const at = hz.findIndex((value) => value > 4000) - 1;
  expect(Math.max(...levelDb.slice(at - 1, at + 2)) - smoothDb[at]!).toBeGreaterThan(3);
  expect(Math.abs(smoothDb[at]! + 83.8)).toBeLessThan(1);
});

test('two noises: a level 6 dB lower, and a bell of 9 dB at 2 kHz beyond it', () => {
  const plain = noise(-40, 10, 1);
  const raised = Float32Array.from(noise(-46, 10, 2));
  new Cascade(kernels, [bellSection(2000, 9, 1, RATE_HZ)]).process(raised, 0, raised.length);
  const level = compareProfiles(of(noise(-46, 10, 2)), of(plain));
  expect(level.levelDb).toBeCloseTo(-6, 0);
  expect(Math.abs(level.mostDb)).toBeLessThan(2);
  const bell = compareProfiles(of(raised), of(plain));
  expect(bell.mostHz).toBeGreaterThan(1500);
  expect(bell.mostHz).toBeLessThan(2700);
  expect(bell.mostDb + bell.levelDb).toBeCloseTo(3, 0);
});
