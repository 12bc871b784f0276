import { join } from 'node:path';
import { joined, levelDb, noise, silence, voice } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, ffmpeg, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';
import { decoded } from './testing/decoded.js';

const files = scratchFolder();
afterAll(files.remove);

interface Balanced {
  readonly files: readonly { readonly role: string; readonly beforeLufs: number; readonly gainDb: number; readonly afterLufs: number }[];
  readonly mix: { readonly integratedLufs: number; readonly truePeakDbtp: number };
  readonly bed: { readonly depthDb: number; readonly overLu: number; readonly speechSeconds: number };
  readonly limited: { readonly mostDb: number };
}
const first = files.path('first.wav');
const second = files.path('second.wav');
const music = files.path('music.wav');
beforeAll(() => {
  const talk = voice(4);
  const full = 0.9 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  writeFloatWav(
    first,
    joined(
      talk.map((x) => 0.2 * full * x),
      silence(4),
    ),
  );
  writeFloatWav(
    second,
    joined(
      silence(4),
      talk.map((x) => full * x),
    ),
  );
  writeFloatWav(music, noise(-24, 8, 5));
});

test('two people and a bed become one programme, as an outside meter hears it', () => {
  const out = files.path('mix.wav');
  const { code, out: text } = cli('balance', first, second, '--bed', music, out, '--loudness', '-20', '--under', '12');
  expect(code).toBe(0);
  const { files: done, mix, bed } = JSON.parse(text) as Balanced;
  expect(done.map(({ role }) => role)).toEqual(['speech', 'speech', 'bed']);
  expect(Math.abs(done[0]!.afterLufs - done[1]!.afterLufs)).toBeLessThan(0.1);
  // The bed as a file; while somebody speaks it is turned down.
  expect(done[0]!.afterLufs - done[2]!.afterLufs).toBeCloseTo(6, 1);
  expect(bed.overLu).toBeCloseTo(12, 1);
  expect(done[0]!.gainDb - done[1]!.gainDb).toBeGreaterThan(10);
  const outside = ebur128(out);
  expect(Math.abs(outside.integratedLufs + 20)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(mix.integratedLufs - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(outside.truePeakDbtp).toBeLessThanOrEqual(-0.9);
});

describe('the demo’s narrator and miller over its bed, by an outside meter', () => {
  const RATE_HZ = 48_000;
  const STEP = 960;
  const demo = join(import.meta.dirname, '../../../demo');
  const written = (name: string, ...how: string[]): Float32Array => {
    const path = files.path(`${name}.wav`);
    ffmpeg('-stream_loop', '2', '-i', join(demo, `${name}.flac`), '-ac', '1', '-ar', String(RATE_HZ), ...how, '-c:a', 'pcm_f32le', path);
    return decoded(path);
  };
  let bedSource: Float32Array;
  let bedStem: Float32Array;
  let speech: Float32Array;
  let report: Balanced;
  /** What is known of the talk without our detector: level of the talkers in steps of 20 ms. */
  let levels: Float32Array;
  beforeAll(() => {
    const people = [written('narrator', '-t', '30'), written('miller', '-af', 'adelay=34000:all=1', '-t', '56')];
    bedSource = written('bed', '-t', '60');
    const out = files.path('tour.f32.wav');
    const names = ['narrator', 'miller', 'bed'].map((name) => files.path(`${name}.wav`));
    const { code, out: text } = cli('balance', names[0]!, names[1]!, '--bed', names[2]!, out, '--loudness', '-30', '--ceiling', '-1');
    expect(code).toBe(0);
    report = JSON.parse(text) as Balanced;
    const gains = report.files.map(({ gainDb }) => 10 ** (gainDb / 20));
    const mix = decoded(out);
    expect(report.limited.mostDb).toBe(0);
    speech = mix.map((_, n) => people.reduce((sum, person, i) => sum + gains[i]! * (person[n] ?? 0), 0));
    bedStem = mix.map((x, n) => x - speech[n]!);
    bedSource = bedSource.map((x) => gains[2]! * x);
    levels = Float32Array.from({ length: Math.floor(speech.length / STEP) }, (_, i) => levelDb(speech, i * STEP, (i + 1) * STEP));
  });

  /** The demo's noise lies 18 dB under its talk. */
  const loud = (i: number): boolean => levels[i]! > -30 - 12;
  /** In a phrase: words with less than half a second between them. Shorter pieces would click where they are joined. */
  const inPhrase = (i: number): boolean => {
    let [before, after] = [0, 0];
    while (before < 25 && i - before >= 0 && !loud(i - before)) before++;
    while (after < 25 && i + after < levels.length && !loud(i + after)) after++;
    return before + after < 25;
  };
  const whole = (sound: Float32Array): string => {
    const path = files.path('whole.wav');
    writeFloatWav(path, sound);
    return path;
  };
  const within = (sound: Float32Array): string => {
    const path = files.path('within.wav');
    writeFloatWav(
      path,
      joined(...Array.from(levels, (_, i) => i).flatMap((i) => (inPhrase(i) ? [sound.subarray(i * STEP, (i + 1) * STEP)] : []))),
    );
    return path;
  };
  const loweredDb = (i: number): number => levelDb(bedSource, i * STEP, (i + 1) * STEP) - levelDb(bedStem, i * STEP, (i + 1) * STEP);

  test('speech stands where it was asked for, within 1 LU', () => {
    const over = ebur128(whole(speech)).integratedLufs - ebur128(within(bedStem)).integratedLufs;
    expect(Math.abs(over - 15)).toBeLessThan(1);
  });

  test('95 % of the words after a gap begin with the bed down; within a phrase it does not move', () => {
    const { depthDb } = report.bed;
    const begins: number[] = [];
    let moved = 0;
    for (let i = 10; i < levels.length; i++) {
      if (!loud(i)) continue;
      let gap = 0;
      while (gap < i && !loud(i - gap - 1)) gap++;
      if (gap >= 10) begins.push(i);
      // A phrase: words with less than 0.6 s between them.
      if (gap > 0 && gap < 30) for (let k = i - gap; k < i; k++) if (loweredDb(k) < depthDb - 1) moved++;
    }
    expect(begins.length).toBeGreaterThan(10);
    expect(begins.filter((i) => loweredDb(i) > depthDb - 1).length).toBeGreaterThanOrEqual(0.95 * begins.length);
    expect(moved).toBe(0);
  });

  test('where nobody speaks for long it comes back to where it was', () => {
    expect(loweredDb(Math.round(33 / 0.02))).toBeLessThan(1);
  });
});

test('what cannot be done is said in a line', () => {
  const quiet = files.path('quiet.wav');
  writeFloatWav(quiet, silence(1));
  expect(cli('balance', quiet, files.path('x.wav'))).toMatchObject({ code: 2, err: expect.stringContaining('silent or shorter') });
  expect(cli('balance', first, first)).toMatchObject({ code: 2, err: expect.stringContaining('never overwritten') });
  expect(cli('balance', files.path('x.wav'))).toMatchObject({ code: 2, err: expect.stringContaining('OUT, the last one') });
  expect(cli('balance', first, files.path('x.wav'), '--under', '99')).toMatchObject({ code: 2, err: expect.stringContaining('0 to 40') });
});
