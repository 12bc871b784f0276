import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { joined, levelDb, mixed, noise, silence, sine, voice } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { resultNames } from './batch.js';
import type { BatchEntry } from './batch-list.js';
import { cli, MAIN } from './testing/cli.js';
import { decoded } from './testing/decoded.js';

const files = scratchFolder();
afterAll(files.remove);
const talk = voice(1.5);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const chain = (name: string, ...treatments: object[]): string => {
  writeFileSync(files.path(name), JSON.stringify({ treatments }));
  return files.path(name);
};
const folder = (name: string): string => {
  mkdirSync(files.path(name), { recursive: true });
  return files.path(name);
};
const listOf = (out: string): BatchEntry[] =>
  (JSON.parse(readFileSync(join(out, 'batch.json'), 'utf8')) as { entries: BatchEntry[] }).entries;

describe('fifty files, two of them broken', () => {
  const [source, out] = [folder('fifty'), files.path('fifty-out')];
  const highPass = chain('high-pass.json', { kind: 'high-pass', cutoffHz: 80 });
  const args = ['batch', source, out, '--chain', highPass, '--loudness', '-18'];
  beforeAll(() => {
    for (let i = 1; i <= 50; i++) {
      const path = join(source, `take ${i}.wav`);
      if (i === 7) writeFileSync(path, 'this is no sound');
      else if (i === 31) writeFileSync(path, '');
      else
        writeFloatWav(
          path,
          mixed(
            talk.map((x) => full * x * 10 ** (-(i % 5) / 4)),
            noise(-60, 1.5, i),
          ),
        );
    }
  });

  test('killed in between and started again: 48 results, two clear reasons, and what was done is not done twice', async () => {
    const child = spawn(process.execPath, [MAIN, ...args], { stdio: ['ignore', 'ignore', 'inherit'] });
    const entries = (): number => {
      try {
        return listOf(out).length;
      } catch {
        return 0;
      }
    };
    const ended = new Promise((resolve) => child.on('close', resolve));
    while (entries() < 12 && child.exitCode === null) await new Promise((resolve) => setTimeout(resolve, 50));
    child.kill('SIGKILL');
    await ended;
    expect(listOf(out).length).toBeLessThan(50);
    const first = join(out, 'take 1.wav');
    const made = statSync(first).mtimeMs;

    const { code, out: printed, err } = cli(...args);
    expect(code).toBe(3);
    const list = JSON.parse(printed) as BatchEntry[];
    expect(list).toHaveLength(50);
    expect(list.filter(({ state }) => state === 'done')).toHaveLength(48);
    expect(list.filter(({ state }) => state === 'failed').map(({ file, problem }) => [file, problem])).toEqual([
      ['take 7.wav', expect.stringContaining('No sound was found in the file')],
      ['take 31.wav', expect.stringContaining('The file is empty (0 bytes)')],
    ]);
    expect(err).toContain('take 7.wav: No sound');
    expect(statSync(first).mtimeMs).toBe(made);
    expect(listOf(out)).toEqual(list);
    expect(readdirSync(out).filter((name) => name.endsWith('.wav'))).toHaveLength(48);
    expect(readdirSync(out).filter((name) => /part|work|rate|done|tags/.test(name))).toEqual([]);
    for (const i of [1, 25, 50]) expect(Math.abs(ebur128(join(out, `take ${i}.wav`)).integratedLufs + 18)).toBeLessThanOrEqual(0.11);
    // Another wish begins anew; a source that changed is made again.
    writeFloatWav(join(source, 'take 2.wav'), sine(440, -20, 1));
    cli(...args);
    expect(statSync(first).mtimeMs).toBe(made);
    expect(decoded(join(out, 'take 2.wav'))).toHaveLength(48_000);
  });
});

test('no result takes the place of another', () => {
  expect([...resultNames(['a.wav', 'a.flac', 'A.mp3', 'a (2).wav', 'b.wav'], 'ogg').values()]).toEqual([
    'a.ogg',
    'a (2).ogg',
    'A (3).ogg',
    'a (2) (2).ogg',
    'b.ogg',
  ]);
});

test('each its own chain: what its survey suggests, its noise found by itself', () => {
  const [source, out] = [folder('own'), files.path('own-out')];
  const words = joined(
    silence(1.2),
    talk.map((x) => full * x),
    silence(0.8),
    talk.map((x) => full * x),
  );
  // One hums, the other hisses.
  writeFloatWav(join(source, 'hum.wav'), mixed(words, mixed(noise(-75, 5, 3), mixed(sine(50, -30, 5), sine(150, -40, 5)))));
  writeFloatWav(join(source, 'hiss.wav'), mixed(words, noise(-48, 5, 4)));
  const { code, out: printed } = cli('batch', source, out, '--suggested');
  expect(code).toBe(0);
  expect((JSON.parse(printed) as BatchEntry[]).map(({ file, state }) => [file, state])).toEqual([
    ['hiss.wav', 'done'],
    ['hum.wav', 'done'],
  ]);
  const gap = (path: string): number => levelDb(decoded(path), 10_000, 50_000);
  expect(gap(join(out, 'hum.wav'))).toBeLessThan(gap(join(source, 'hum.wav')) - 20);
  expect(gap(join(out, 'hiss.wav'))).toBeLessThan(gap(join(source, 'hiss.wav')) - 6);
});

test('what misses its target needs an ear, and is told why', () => {
  const [source, out] = [folder('loud'), files.path('loud-out')];
  writeFloatWav(
    join(source, 'a.wav'),
    mixed(
      talk.map((x) => full * x),
      noise(-45, 1.5, 2),
    ),
  );
  writeFloatWav(join(source, 'b.wav'), sine(440, -20, 1));
  const target = { name: 'T', integratedLufs: -18, toleranceLu: 1, ceilingDbtp: -1, noiseFloorDbfs: -60 };
  writeFileSync(files.path('t.json'), JSON.stringify(target));
  const { out: printed } = cli('batch', source, out, '--chain', chain('none.json'), '--target', files.path('t.json'));
  const [first, second] = JSON.parse(printed) as BatchEntry[];
  expect(first!.out).toBe('a.wav');
  expect(first!.needsEar).toEqual([expect.stringMatching(/^Noise floor: −\d+\.\d dBFS, at most -60 dBFS is asked\.$/)]);
  expect(second!.sheet!.find(({ title }) => title === 'Integrated loudness')).toMatchObject({ passed: true });
});

test.each([
  [['x'], 'batch takes two folders'],
  [['no such folder', 'y', '--suggested'], 'There is no folder'],
  [['empty', 'y', '--suggested'], 'No sound file lies in'],
  [['empty', 'y'], 'batch needs --chain CHAIN.json, or --suggested'],
  [['empty', 'empty', '--suggested'], 'FOLDER and OUT are the same'],
] as const)('%j is refused in words', ([from, to, ...options], words) => {
  folder('empty');
  const { code, err } = cli('batch', files.path(from), ...(to === undefined ? [] : [files.path(to)]), ...options);
  expect([code, err]).toEqual([2, expect.stringContaining(words)]);
});
