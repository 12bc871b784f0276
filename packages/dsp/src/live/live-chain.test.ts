import { parseChain, type ChainSpec } from '../chain/chain-spec.js';
import { takeNoiseProfile } from '../noise/profile.js';
import { conformance } from '../testing/conformance.js';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, run, sdrDb, silence, sine, toneDb, voice } from '../testing/signals.js';
import { treatmentKinds, treatmentOf } from '../treatments/registry.js';
import { LiveChain, liveNotes } from './live-chain.js';

const noiseProfile = takeNoiseProfile(kernels, [noise(-60, 1.5, 1), noise(-60, 1.5, 2)], RATE_HZ);
const stereo = { sampleRateHz: RATE_HZ, channels: 2, kernels, noiseProfile };
const mono = {
  sampleRateHz: RATE_HZ,
  channels: 1,
  kernels,
  noiseProfile: { ...noiseProfile, channels: noiseProfile.channels.slice(0, 1) },
};
const chain = (...treatments: object[]): ChainSpec => parseChain({ treatments });
const everything = chain(...treatmentKinds.map((kind) => ({ kind })));
const { sin, PI } = Math;

describe('conformance of every live form in a row', () => conformance(() => new LiveChain(stereo, everything), { stages: true }));

test('a whole chain is late by 15 ms at most, noise reduction by 12', () => {
  for (const sampleRateHz of [44_100, 48_000, 96_000]) {
    const profile = takeNoiseProfile(kernels, [noise(-60, 1, 1, sampleRateHz)], sampleRateHz);
    const context = { sampleRateHz, channels: 1, kernels, noiseProfile: profile };
    expect(new LiveChain(context, everything).latencyFrames / sampleRateHz).toBeLessThan(0.015);
    expect(new LiveChain(context, chain({ kind: 'noise-reduction' })).latencyFrames / sampleRateHz).toBeLessThan(0.012);
  }
});

test('it is as late as it says: an impulse comes out there', () => {
  const spec = chain({ kind: 'noise-reduction', reductionDb: 0 }, { kind: 'gate', rangeDb: 0 }, { kind: 'limiter' });
  const live = new LiveChain(mono, spec);
  const sound = new Float32Array(24_000);
  sound[12_000] = 0.5;
  const out = run(live, [sound])[0]!;
  let most = 0;
  out.forEach((x, n) => (most = Math.abs(x) > Math.abs(out[most]!) ? n : most));
  expect(most).toBe(12_000);
  expect(out[most]!).toBeCloseTo(0.5, 2);
});

test('what works on what was recorded is left out, and told', () => {
  const notes = liveNotes(everything);
  const left = notes.filter(({ heard }) => !heard).map(({ kind }) => kind);
  expect(left).toEqual(['clipping', 'clicks', 'spots', 'room', 'bleed', 'breaths', 'pauses', 'under-speech']);
});

test('values move in place, another order asks for another chain', () => {
  const live = new LiveChain(mono, everything);
  const moved = everything.treatments.map((settings) => (settings.kind === 'gate' ? { ...settings, openDb: -30 } : settings));
  expect(live.setParameters({ treatments: moved })).toBe(true);
  expect(live.setParameters({ treatments: moved.slice(1).reverse() })).toBe(false);
});

describe('moved in place, a live form is what it would have been from the start', () => {
  const sound = mixed(voice(6, 150), mixed(noise(-50, 6, 3), mixed(sine(50, -40, 6), sine(60, -40, 6))));
  const moved: Readonly<Record<string, object>> = {
    'hum-lines': { baseHz: 60 },
    'noise-reduction': { reductionDb: 20 },
    gate: { openDb: -30, closeDb: -34, rangeDb: 20 },
    expander: { thresholdDb: -30 },
    sibilance: { reductionDb: 3 },
    plosives: { reductionDb: 3 },
    limiter: { ceilingDbtp: -12 },
    levelling: { targetLufs: -26 },
  };
  test.each(treatmentKinds.flatMap((kind) => (treatmentOf(kind).live?.create ? [[kind] as const] : [])))('%s', (kind) => {
    // A gate that knows who talks in a recording goes by level here.
    const before = { kind, ...(kind === 'gate' ? { listens: 'words' } : {}) };
    const after = chain({ ...before, ...moved[kind] });
    const expected = run(new LiveChain(mono, after), [sound])[0]!;
    const live = new LiveChain(mono, chain(before));
    const heard = sound.slice();
    for (let at = 0; at < heard.length; at += 4800) {
      if (at === 96_000) expect(live.setParameters(after)).toBe(true);
      for (let n = at; n < at + 4800; n += 480) live.process([heard.subarray(n, n + 480)], [heard.subarray(n, n + 480)], 480);
    }
    const late = live.latencyFrames;
    const difference = heard.subarray(late).map((x, n) => x - expected[n]!);
    expect(levelDb(difference, 240_000, 280_000)).toBeLessThan(-60);
  });
});

describe('noise reduction, live', () => {
  const talk = joined(silence(1), voice(3, 140));
  const hiss = noise(-50, 4, 9);
  const profiled = { ...mono, noiseProfile: takeNoiseProfile(kernels, [noise(-50, 1.5, 4)], RATE_HZ) };

  test('with nothing to take it passes what comes, to the sample', () => {
    const out = run(new LiveChain(profiled, chain({ kind: 'noise-reduction', reductionDb: 0 })), [talk])[0]!;
    expect(sdrDb(talk, out, 4800, talk.length - 4800)).toBeGreaterThan(90);
  });

  test.each(['fixed', 'follow', 'tracked'])(
    '%s: lowers the noise between words nearly as far as it may, and brings the voice out of it',
    (mode) => {
      const heard = mixed(talk, hiss);
      const out = run(new LiveChain(profiled, chain({ kind: 'noise-reduction', reductionDb: 12, mode })), [heard])[0]!;
      expect(levelDb(heard, 24_000, 45_000) - levelDb(out, 24_000, 45_000)).toBeGreaterThan(9);
      expect(sdrDb(talk, out, 48_000)).toBeGreaterThan(sdrDb(talk, heard, 48_000) + 2);
    },
  );

  test('a profile that follows finds a noise that has become 6 dB louder', () => {
    const louder = noise(-44, 8, 11);
    const of = (mode: string): number =>
      levelDb(run(new LiveChain(profiled, chain({ kind: 'noise-reduction', mode })), [louder])[0]!, 6 * RATE_HZ);
    expect(of('follow')).toBeLessThan(-44 - 9);
    expect(of('fixed')).toBeGreaterThan(of('follow') + 3);
  });
});

test('sibilance, live: an s comes down as asked, the voice stays', () => {
  const body = sine(500, -20, 3);
  const s = sine(7000, -16, 0.3);
  const sound = body.slice();
  s.forEach((x, n) => (sound[96_000 + n]! += x));
  const out = run(new LiveChain(mono, chain({ kind: 'sibilance', reductionDb: 8, thresholdDb: -20 })), [sound])[0]!;
  const lowered = toneDb(sound, 7000, 99_000, 108_000) - toneDb(out, 7000, 99_000, 108_000);
  // The edge of the band is soft: an octave above it 1.5 dB are missing.
  expect(lowered).toBeGreaterThan(6);
  expect(lowered).toBeLessThan(8.1);
  expect(Math.abs(toneDb(out, 500, 99_000, 108_000) + 20)).toBeLessThan(0.1);
});

test('plosives, live: a burst comes down, the voice stays', () => {
  const sound = sine(300, -20, 3);
  sine(60, -6, 0.12).forEach((x, n) => (sound[96_000 + n]! += x * sin((PI * n) / 5760)));
  const out = run(new LiveChain(mono, chain({ kind: 'plosives' })), [sound])[0]!;
  expect(toneDb(sound, 60, 97_000, 101_500) - toneDb(out, 60, 97_000, 101_500)).toBeGreaterThan(12);
  expect(Math.abs(toneDb(out, 300, 24_000, 90_000) + 20)).toBeLessThan(0.1);
});

test('a limiter holds peaks live as surely', () => {
  const out = run(new LiveChain(mono, chain({ kind: 'limiter', ceilingDbtp: -6 })), [
    joined(silence(0.2), sine(997, -1, 0.5), noise(-9, 0.3, 2)),
  ])[0]!;
  expect(out.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThan(10 ** (-6 / 20) + 1e-4);
});
