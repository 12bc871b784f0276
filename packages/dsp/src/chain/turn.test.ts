import { butterworthTurn, notchTurn } from '../filters/phase-turn.js';
import { PhaseFilter } from '../filters/phase-filter.js';
import { bellSection, butterworthHighPass, cascadeMagnitude } from '../filters/sections.js';
import { RealFft } from '../kernels/real-fft.js';
import { conformance } from '../testing/conformance.js';
import { kernels, levelDb, noise, RATE_HZ, voice } from '../testing/signals.js';
import { Chain } from './chain.js';
import { parseChain, type ChainSpec } from './chain-spec.js';
import { Turn, turned } from './turn.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const chain = (...treatments: object[]): ChainSpec => parseChain({ treatments });

/** What comes out, in line with what goes in. */
function result(spec: ChainSpec, sound: Float32Array): Float32Array {
  const stage = new Chain(context, spec);
  const input = new Float32Array(sound.length + stage.latencyFrames);
  input.set(sound);
  for (let at = 0; at < input.length; at += 4096)
    stage.process([input.subarray(at, at + 4096)], [input.subarray(at, at + 4096)], Math.min(4096, input.length - at));
  return input.subarray(stage.latencyFrames);
}

// Bound and made once: in the test runner's sandbox looking up a global costs more than what it computes.
const { cos, PI } = Math;
const FRAME = 32_768;
const hann = Float64Array.from({ length: FRAME }, (_, n) => 0.5 - 0.5 * cos((2 * PI * n) / FRAME));

/** Power in third octaves (IEC 61260-1, base two), dB, by their centre. */
function thirdOctaves(sound: Float32Array): Map<number, number> {
  const fft = new RealFft(kernels, FRAME);
  const { frame, re, im } = fft;
  const power = new Float64Array(FRAME / 2 + 1);
  for (let at = 0; at + FRAME <= sound.length; at += FRAME / 4) {
    for (let n = 0; n < FRAME; n++) frame[n] = sound[at + n]! * hann[n]!;
    fft.forward();
    for (let k = 0; k < power.length; k++) power[k]! += re[k]! * re[k]! + im[k]! * im[k]!;
  }
  const levels = new Map<number, number>();
  for (let band = -13; band <= 13; band++) {
    const hz = 1000 * 2 ** (band / 3);
    const bin = (factor: number): number => Math.round((hz * factor * 32768) / RATE_HZ);
    let sum = 1e-30;
    for (let k = bin(2 ** (-1 / 6)); k < bin(2 ** (1 / 6)); k++) sum += power[k]!;
    levels.set(hz, 10 * Math.log10(sum));
  }
  return levels;
}

/** Of the source as it is compared: third octaves against the recording's; of removed: against the recording's. */
function compare(spec: ChainSpec, sound: Float32Array) {
  const [source] = turned(context, spec, [sound]);
  const made = result(spec, sound);
  const removed = source!.map((x, n) => x - made[n]!);
  const before = thirdOctaves(sound.subarray(9600));
  const [lane, lost] = [thirdOctaves(source!.subarray(9600)), thirdOctaves(removed.subarray(9600))];
  const above = (hz: number) => [...before].filter(([centre]) => centre / 2 ** (1 / 6) >= hz);
  return {
    changedDb: Math.max(...above(50).map(([hz, db]) => Math.abs(lane.get(hz)! - db))),
    lostDb: (hz: number): number => Math.max(...above(hz).map(([centre, db]) => lost.get(centre)! - db)),
  };
}

const sounds = { noise: noise(-20, 4, 3), 'a low voice': voice(4, 95), 'a high voice': voice(4, 210) };

describe.each([
  [6, -20],
  [12, -20],
  [18, -30],
  [24, -30],
  [30, -30],
  [36, -30],
  [48, -30],
])('a high-pass of %i dB an octave', (slopeDbPerOctave, limitDb) => {
  test.each(Object.entries(sounds))('leaves of %s nothing in removed from three times the cutoff on', (_, sound) => {
    for (const cutoffHz of [60, 80, 120, 300]) {
      const { changedDb, lostDb } = compare(chain({ kind: 'high-pass', cutoffHz, slopeDbPerOctave }), sound);
      expect(changedDb).toBeLessThan(0.1);
      expect(lostDb(3 * cutoffHz)).toBeLessThan(limitDb);
    }
  });
});

test('without the turn a voice is heard in removed; what lies below the cutoff is there with it too', () => {
  const sound = noise(-20, 4, 3);
  const spec = chain({ kind: 'high-pass' });
  const made = result(spec, sound);
  const plain = thirdOctaves(sound.map((x, n) => x - made[n]!).subarray(9600));
  const before = thirdOctaves(sound.subarray(9600));
  const hz = 1000 * 2 ** (-5 / 3);
  expect(plain.get(hz)! - before.get(hz)!).toBeGreaterThan(-4);
  const low = 1000 * 2 ** (-13 / 3);
  expect(
    thirdOctaves(
      turned(context, spec, [sound])[0]!
        .map((x, n) => x - made[n]!)
        .subarray(9600),
    ).get(low)! - before.get(low)!,
  ).toBeGreaterThan(-3);
});

test('notches: beside ten widths removed holds nothing; a bell and shelves hold what they take', () => {
  const sound = noise(-20, 6, 3);
  const notch = compare(chain({ kind: 'hum-notch', baseHz: 50, harmonics: 6, widthHz: 3 }), sound);
  expect(notch.changedDb).toBeLessThan(0.1);
  expect(notch.lostDb(400)).toBeLessThan(-40);
  const tone = chain({
    kind: 'tone',
    bands: [
      { shape: 'low-shelf', frequencyHz: 150, gainDb: -6, q: 0.7 },
      { shape: 'bell', frequencyHz: 360, gainDb: -4, q: 2 },
    ],
  });
  const { changedDb, lostDb } = compare(tone, sound);
  expect(changedDb).toBeLessThan(0.1);
  expect(lostDb(1200)).toBeLessThan(-40);
});

test('all-passes pass all, and the fit holds at any rate', () => {
  for (const rate of [8000, 44100, 192000])
    for (let order = 1; order <= 8; order++)
      for (const hz of [30, 80, 240, 1000, 3900]) expect(cascadeMagnitude(butterworthTurn(80, order, rate), hz, rate)).toBeCloseTo(1, 9);
  for (const hz of [20, 50, 51, 1000]) expect(cascadeMagnitude([notchTurn(50, 3, RATE_HZ)], hz, RATE_HZ)).toBeCloseTo(1, 9);
  expect(butterworthHighPass(80, 8, RATE_HZ)).toHaveLength(4);
});

describe('one treatment alone is what it takes', () => {
  test.each([{ kind: 'high-pass' }, { kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 200, gainDb: -9, q: 1 }] }])(
    '$kind',
    (settings) => {
      const sound = voice(3, 180);
      const spec = chain({ ...settings, id: 'a' });
      const made = result(spec, sound);
      const [source] = turned(context, spec, [sound]);
      const alone = result({ ...spec, alone: 'a' }, sound);
      const difference = alone.map((x, n) => x - (source![n]! - made[n]!));
      expect(levelDb(difference)).toBeLessThan(-120);
    },
  );
});

describe('the phase of a bell as a filter of finite length', () =>
  conformance(() => new PhaseFilter({ ...context, channels: 2 }, [bellSection(300, -6, 1, RATE_HZ)])));

describe('turned as a chain turns', () =>
  conformance(() => new Turn({ ...context, channels: 2 }, chain({ kind: 'high-pass' }, { kind: 'gate' }, { kind: 'hum-notch' }))));

test('a control that moves is gone along with, and a bypassed one turns nothing', () => {
  const turn = new Turn(context, chain({ kind: 'high-pass', cutoffHz: 80 }));
  expect(turn.setParameters(chain({ kind: 'high-pass', cutoffHz: 200 }))).toBe(true);
  expect(turn.setParameters(chain({ kind: 'high-pass', slopeDbPerOctave: 48 }))).toBe(false);
  expect(turn.setParameters(chain({ kind: 'high-pass' }, { kind: 'tone', bands: [] }))).toBe(false);
  expect(new Turn(context, chain({ kind: 'high-pass', bypassed: true }, { kind: 'gate' })).plain).toBe(true);
});

test('bands of a tone that move are crossfaded to, without a click', () => {
  const filter = new PhaseFilter(context, [bellSection(300, -6, 1, RATE_HZ)]);
  const sound = Float32Array.from({ length: 3 * RATE_HZ }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 300 * n) / RATE_HZ));
  const out = new Float32Array(sound.length);
  for (let at = 0; at < sound.length; at += 1000) {
    if (at === 60_000) filter.set([bellSection(500, 12, 3, RATE_HZ)]);
    filter.process([sound.subarray(at, at + 1000)], [out.subarray(at, at + 1000)], 1000);
  }
  let largest = 0;
  for (let n = 20_000; n < out.length; n++) largest = Math.max(largest, Math.abs(out[n]! - out[n - 1]!));
  expect(largest).toBeLessThan(1.05 * 0.5 * 2 * Math.PI * (300 / RATE_HZ));
});
