import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { treatments } from '@euphonos/dsp';
import { joined, levelDb, mixed, noise, silence, sine, toneDb, voice } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';

const files = scratchFolder();
afterAll(files.remove);

function floatsOf(path: string): Float32Array {
  const raw = `${path}.raw`;
  ffmpeg('-i', path, '-f', 'f32le', '-c:a', 'pcm_f32le', raw);
  const bytes = readFileSync(raw);
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}
const chain = (name: string, ...list: object[]): string => {
  writeFileSync(files.path(name), JSON.stringify({ treatments: list }));
  return files.path(name);
};

/** Half a second of noise and hum alone, then words (two tones) over it. */
const words = joined(silence(0.6), mixed(sine(440, -15, 1), sine(1870, -20, 1)), silence(0.4), sine(700, -14, 1));
const dirty = mixed(mixed(words, noise(-45, 3, 7)), sine(50, -30, 3));
const IN = files.path('dirty.wav');
beforeAll(() => writeFloatWav(IN, dirty));

test('measure prints every figure, as ffmpeg measures them', () => {
  const { code, out } = cli('measure', IN);
  const figures = JSON.parse(out) as Record<string, number>;
  expect(code).toBe(0);
  expect(Object.keys(figures).sort()).toEqual([
    'channels',
    'dcOffset',
    'durationSeconds',
    'integratedLufs',
    'loudnessRangeLu',
    'maxMomentaryLufs',
    'maxShortTermLufs',
    'noiseFloorDbfs',
    'rmsDbfs',
    'samplePeakDbfs',
    'sampleRateHz',
    'truePeakDbtp',
  ]);
  const outside = ebur128(IN);
  expect(Math.abs(figures['integratedLufs']! - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(figures['truePeakDbtp']! - outside.truePeakDbtp)).toBeLessThanOrEqual(0.1);
  expect(figures).toMatchObject({ durationSeconds: 3, sampleRateHz: 48000, channels: 1 });
});

test('clean: hum and noise go, words stay, length and place stay', () => {
  const spec = chain(
    'clean.json',
    { kind: 'high-pass', cutoffHz: 80 },
    { kind: 'hum-notch', harmonics: 2 },
    { kind: 'noise-reduction', reductionDb: 18 },
  );
  const out = files.path('clean.f32.wav');
  expect(cli('clean', IN, out, '--chain', spec, '--noise', '0.05-0.55')).toEqual({ code: 0, out: '', err: '' });
  const cleaned = floatsOf(out);
  expect(cleaned.length).toBe(dirty.length);
  expect(toneDb(cleaned, 50, 48000, 96000)).toBeLessThan(-60);
  expect(levelDb(cleaned, 8000, 24000)).toBeLessThan(levelDb(noise(-45, 1)) - 14);
  expect(toneDb(cleaned, 440, 36000, 72000)).toBeCloseTo(-15, 0);
  expect(toneDb(cleaned, 700, 100_000, 140_000)).toBeCloseTo(-14, 0);
});

test('result and removed add up to the source that they are compared with, sample by sample', () => {
  const spec = chain('sum.json', { kind: 'gate', openDb: -30, closeDb: -35 }, { kind: 'high-pass', slopeDbPerOctave: 12 });
  const [result, removed, source] = (['result', 'removed', 'source'] as const).map((output) => {
    cli('clean', IN, files.path(`${output}.f32.wav`), '--chain', spec, '--output', output);
    return floatsOf(files.path(`${output}.f32.wav`));
  });
  expect(result!.length).toBe(dirty.length);
  expect(result!.every((x, n) => Math.abs(x + removed![n]! - source![n]!) < 1e-6)).toBe(true);
  // Turned in phase as the filter turns, and nothing taken.
  expect(source!.some((x, n) => Math.abs(x - dirty[n]!) > 0.01)).toBe(true);
  expect(levelDb(source!)).toBeCloseTo(levelDb(dirty), 1);
});

test('an empty chain gives the recording back to the bit; without .f32 the file has 24 bits', () => {
  const spec = chain('empty.json');
  cli('clean', IN, files.path('same.f32.wav'), '--chain', spec);
  expect(floatsOf(files.path('same.f32.wav'))).toEqual(dirty);
  cli('clean', IN, files.path('same.wav'), '--chain', spec);
  expect(floatsOf(files.path('same.wav')).every((x, n) => Math.abs(x - dirty[n]!) <= 1.5 * 2 ** -23)).toBe(true);
});

test('loudness and ceiling are reached', () => {
  const { code } = cli(
    'clean',
    IN,
    files.path('loud.wav'),
    '--chain',
    chain('loud.json', { kind: 'high-pass' }),
    '--loudness',
    '-16',
    '--ceiling',
    '-1.5',
  );
  expect(code).toBe(0);
  const outside = ebur128(files.path('loud.wav'));
  expect(Math.abs(outside.integratedLufs + 16)).toBeLessThanOrEqual(0.2);
  expect(outside.truePeakDbtp).toBeLessThanOrEqual(-1.4);
});

test('of a stereo file each channel is treated for itself', () => {
  const left = noise(-20, 1, 1);
  writeFloatWav(
    files.path('stereo.wav'),
    Float32Array.from({ length: 96_000 }, (_, i) => (i % 2 ? 0 : left[i >> 1]!)),
    { channels: 2 },
  );
  cli('clean', files.path('stereo.wav'), files.path('stereo.f32.wav'), '--chain', chain('hp.json', { kind: 'high-pass', cutoffHz: 500 }));
  const out = floatsOf(files.path('stereo.f32.wav'));
  expect(out.length).toBe(96_000);
  expect(out.filter((_, i) => i % 2 === 1).every((x) => Math.abs(x) < 1e-12)).toBe(true);
  expect(levelDb(out.filter((_, i) => i % 2 === 0))).toBeGreaterThan(-21);
});

test('treatments prints the registry', () => {
  const { code, out } = cli('treatments');
  const list = JSON.parse(out) as { kind: string; parameters: Record<string, unknown>[] }[];
  expect(code).toBe(0);
  expect(list.map(({ kind }) => kind)).toEqual(treatments.map(({ kind }) => kind));
  for (const { parameters } of list)
    for (const parameter of Object.values(parameters))
      expect(parameter).toMatchObject({ unit: expect.any(String), default: expect.any(Number), sentence: expect.any(String) });
});

test('clean: the noise is found by itself, or tracked without a passage', () => {
  const file = files.path('found.wav');
  const heard = mixed(joined(silence(2), words.subarray(0, 96_000), silence(1)), noise(-45, 5, 17));
  writeFloatWav(file, heard);
  const chains = [
    chain('auto.json', { kind: 'noise-reduction', reductionDb: 18 }),
    chain('tracked.json', { kind: 'noise-reduction', mode: 'tracked', reductionDb: 18 }),
  ];
  const out = files.path('found-out.f32.wav');
  const found = cli('clean', file, out, '--chain', chains[0]!, '--noise', 'auto');
  expect(found).toMatchObject({
    code: 0,
    err: expect.stringMatching(/^note: noise profiled from \d\.\d\d to \d\.\d\d s, -4\d\.\d dBFS, steady within \d\.\d dB\.\n$/),
  });
  expect(levelDb(floatsOf(out), 24000, 72000)).toBeLessThan(-45 - 14);
  expect(cli('clean', file, out, '--chain', chains[1]!)).toEqual({ code: 0, out: '', err: '' });
  expect(levelDb(floatsOf(out), 60000, 90000)).toBeLessThan(-45 - 12);
});

test('a profile that was taken into a file serves another recording, also at another rate', () => {
  const spec = chain('room.json', { kind: 'high-pass', cutoffHz: 80 }, { kind: 'noise-reduction', mode: 'fixed', reductionDb: 18 });
  const kept = files.path('room.noise.json');
  expect(cli('profile', IN, kept, '--noise', '0.05-0.55', '--chain', spec)).toEqual({ code: 0, out: '', err: '' });
  expect(JSON.parse(readFileSync(kept, 'utf8'))).toMatchObject({
    format: 'noise-profile',
    version: 1,
    name: 'dirty',
    takenFrom: 'dirty.wav, 0.05 to 0.55 s',
    sampleRateHz: 48000,
  });
  const [live, reused, other] = ['live.f32.wav', 'reused.f32.wav', 'other.f32.wav'].map((name) => files.path(name)) as [
    string,
    string,
    string,
  ];
  cli('clean', IN, live, '--chain', spec, '--noise', '0.05-0.55');
  expect(cli('clean', IN, reused, '--chain', spec, '--profile', kept)).toEqual({ code: 0, out: '', err: '' });
  const [a, b] = [floatsOf(live), floatsOf(reused)];
  // Levels in the file are rounded to 0.01 dB.
  expect(levelDb(a.map((x, n) => x - b[n]!))).toBeLessThan(-80);
  ffmpeg('-i', IN, '-ar', '44100', files.path('dirty44.wav'));
  cli('clean', files.path('dirty44.wav'), other, '--chain', spec, '--profile', kept);
  expect(levelDb(floatsOf(other), 8000, 22000)).toBeLessThan(levelDb(noise(-45, 1)) - 14);
});

test('several passages feed one profile', () => {
  const spec = chain('two.json', { kind: 'noise-reduction', mode: 'fixed', reductionDb: 18 });
  const both = files.path('both.noise.json');
  expect(cli('profile', IN, both, '--noise', '0.02-0.45,1.7-2.0').code).toBe(0);
  expect(JSON.parse(readFileSync(both, 'utf8'))).toMatchObject({
    takenFrom: 'dirty.wav, 0.02 to 0.45 s, 1.70 to 2.00 s',
    frameCount: 37 + 25,
  });
  expect(cli('clean', IN, files.path('two.wav'), '--chain', spec, '--noise', '0.02-0.45,1.7-2.0')).toEqual({ code: 0, out: '', err: '' });
});

test('pauses without a place are lowered where the survey finds them', () => {
  const file = files.path('pauses.wav');
  const heard = mixed(joined(silence(1), voice(2, 120), silence(1.5), voice(2, 120), silence(1)), noise(-50, 7.5, 19));
  writeFloatWav(file, heard);
  const out = files.path('pauses-out.f32.wav');
  expect(cli('clean', file, out, '--chain', chain('pauses.json', { kind: 'pauses', reductionDb: 20 }))).toMatchObject({
    code: 0,
    err: expect.stringMatching(/^note: pauses: \d+ found, words above -\d+(\.5)?, pauses below -\d+(\.5)? dBFS\.\n$/),
  });
  const lowered = floatsOf(out);
  expect(levelDb(heard, 170_000, 195_000) - levelDb(lowered, 170_000, 195_000)).toBeCloseTo(20, 0);
});

test('pauses that are cut make the file shorter, filled ones keep its length and its room', () => {
  const file = files.path('talk.wav');
  const heard = mixed(joined(silence(1), voice(2, 120), silence(1.5), voice(2, 120), silence(1)), noise(-50, 7.5, 19));
  writeFloatWav(file, heard);
  const run = (way: string): Float32Array => {
    const out = files.path(`${way}.f32.wav`);
    expect(
      cli('clean', file, out, '--chain', chain(`${way}.json`, { kind: 'pauses', way, afterWordMs: 200, beforeWordMs: 150 })),
    ).toMatchObject({ code: 0, err: expect.stringMatching(/pauses?: (cut|room tone)\.\n$/) });
    return floatsOf(out);
  };
  const cut = run('close');
  // What is kept of three pauses, give or take the detector's steps: 0.35 s between the words, less at the ends.
  expect(cut.length / 48_000).toBeGreaterThan(4.3);
  expect(cut.length / 48_000).toBeLessThan(5.2);
  const toned = run('tone');
  expect(toned.length).toBe(heard.length);
  expect(Math.abs(levelDb(toned, 165_000, 195_000) + 50)).toBeLessThan(1);
  expect(existsSync(files.path('close.f32.wav.channel-0'))).toBe(false);
});

test('a gate that listens to talk learns from the survey where nobody talks', () => {
  const file = files.path('gated.wav');
  const heard = mixed(joined(silence(1), voice(2, 120), silence(1.5), voice(2, 120), silence(1)), noise(-50, 7.5, 19));
  writeFloatWav(file, heard);
  const out = files.path('gated.f32.wav');
  expect(
    cli('clean', file, out, '--chain', chain('gated.json', { kind: 'gate', listens: 'talk', openDb: -80, closeDb: -85, rangeDb: 30 })),
  ).toMatchObject({ code: 0, err: expect.stringMatching(/^note: gate: \d+ stretches in which nobody talks\.\n$/) });
  const gated = floatsOf(out);
  // Far over its thresholds, and closed all the same: nobody talks.
  expect(levelDb(heard, 175_000, 195_000) - levelDb(gated, 175_000, 195_000)).toBeCloseTo(30, 0);
  expect(Math.abs(levelDb(heard, 60_000, 130_000) - levelDb(gated, 60_000, 130_000))).toBeLessThan(0.5);
});

describe('bad calls: one line on stderr, exit code 2, no file', () => {
  const good = (): string => chain('good.json', { kind: 'high-pass' });
  const cases: [string, () => string[]][] = [
    ['a chain that is not there', () => ['--chain', files.path('none.json')]],
    ['a chain that is no JSON', () => (writeFileSync(files.path('bad.json'), '{'), ['--chain', files.path('bad.json')])],
    ['an unknown treatment', () => ['--chain', chain('b1.json', { kind: 'polish' })]],
    ['an unknown parameter', () => ['--chain', chain('b2.json', { kind: 'gate', colour: 3 })]],
    ['a parameter out of range', () => ['--chain', chain('b3.json', { kind: 'high-pass', cutoffHz: 501 })]],
    ['a gate that opens below where it closes', () => ['--chain', chain('b4.json', { kind: 'gate', openDb: -60, closeDb: -50 })]],
    ['noise reduction without a span', () => ['--chain', chain('b5.json', { kind: 'noise-reduction' })]],
    ['a span outside', () => ['--chain', good(), '--noise', '2.5-9']],
    ['a span back to front', () => ['--chain', good(), '--noise', '2-1']],
    ['a span that is none', () => ['--chain', good(), '--noise', 'start']],
    ['a passage of two that is none', () => ['--chain', good(), '--noise', '0.1-0.5,x']],
    ['a profile that is not there', () => ['--chain', good(), '--profile', files.path('no.noise.json')]],
    ['a profile that is something else', () => ['--chain', good(), '--profile', good()]],
    ['a passage and a profile', () => ['--chain', good(), '--noise', '0.1-0.5', '--profile', good()]],
    ['an impossible loudness', () => ['--chain', good(), '--loudness', '6']],
    ['an unknown option', () => ['--chain', good(), '--fast']],
    ['no chain', () => []],
  ];
  test.each(cases)('%s', (_, args) => {
    const out = files.path('never.wav');
    const { code, out: printed, err } = cli('clean', IN, out, ...args());
    expect(code).toBe(2);
    expect(printed).toBe('');
    expect(err).toMatch(/^euphonos: .+\n$/);
    expect(existsSync(out)).toBe(false);
  });

  test('a file that is not sound, and one that is not there', () => {
    writeFileSync(files.path('text.wav'), 'not sound');
    for (const file of ['text.wav', 'none.wav']) {
      const { code, err } = cli('measure', files.path(file));
      expect(code).toBe(2);
      expect(err).toMatch(/^euphonos: .+\n$/);
    }
  });
});

test('survey prints findings in the order of mending, with their figures', () => {
  const { code, out, err } = cli('survey', IN);
  expect([code, err]).toEqual([0, '']);
  const { findings } = JSON.parse(out) as { findings: { kind: string; certainty: number; baseHz?: number }[] };
  expect(findings.find(({ kind }) => kind === 'hum')!.baseHz).toBeCloseTo(50, 1);
  for (const { certainty } of findings) expect(certainty).toBeGreaterThan(0);
  expect(findings.findIndex(({ kind }) => kind === 'hum')).toBeLessThan(findings.findIndex(({ kind }) => kind === 'noise-floor'));
  expect(cli('survey').code).toBe(2);
  expect(cli('survey', files.path('nowhere.wav'))).toMatchObject({ code: 2, out: '' });
});

test('a chain that raises peaks is lowered as a whole in a 24-bit file, and left alone in floats', () => {
  const spec = chain('raise.json', { kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 440, gainDb: 20, q: 1 }] });
  const whole = files.path('raised.wav');
  expect(cli('clean', IN, whole, '--chain', spec).err).toMatch(/lowered by \d+\.\d dB/);
  const floats = files.path('raised.f32.wav');
  cli('clean', IN, floats, '--chain', spec);
  const peak = (path: string): number => floatsOf(path).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  expect(peak(floats)).toBeGreaterThan(1.2);
  expect(peak(whole)).toBeLessThan(1);
  expect(peak(whole)).toBeGreaterThan(0.97);
});
