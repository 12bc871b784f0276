import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { parseDocument, targets, type Report } from '@euphonos/engine';
import { joined, mixed, noise, silence, voice } from '../../../packages/dsp/src/testing/signals.js';
import { scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';

const files = scratchFolder();
afterAll(files.remove);
const talk = voice(3);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const words = talk.map((x) => full * x);
const CHAIN = files.path('chain.json');
const TARGET = files.path('target.json');
beforeAll(() => {
  writeFloatWav(files.path('anna & bela.wav'), mixed(joined(silence(1.2), words, silence(1), words), noise(-50, 8.2, 3)));
  writeFloatWav(files.path('bed.wav'), noise(-40, 4, 8), { sampleRateHz: 44_100 });
  writeFileSync(CHAIN, JSON.stringify({ treatments: [{ kind: 'noise-reduction', reductionDb: 14 }] }));
  writeFileSync(TARGET, JSON.stringify({ ...targets[0]!, noiseFloorDbfs: -40 }));
});

test('a bundle of two files is checked and unpacked: the same bytes, a session that can be read; never over anything', () => {
  const out = files.path('two.zip');
  const made = cli('bundle', files.path('anna & bela.wav'), files.path('bed.wav'), out, '--chain', CHAIN);
  expect(made.code).toBe(0);
  expect(JSON.parse(made.out)).toMatchObject({
    sessions: ['anna & bela'],
    recordings: [{ fileName: 'anna & bela.wav' }, { fileName: 'bed.wav' }],
  });
  const folder = files.path('unpacked');
  const taken = cli('unbundle', out, folder);
  expect(JSON.parse(taken.out)).toEqual({ sources: ['anna & bela.wav', 'bed.wav'], sessions: ['anna & bela.session.json'] });
  for (const name of ['anna & bela.wav', 'bed.wav'])
    expect(readFileSync(`${folder}/${name}`).equals(readFileSync(files.path(name)))).toBe(true);
  const document = parseDocument(JSON.parse(readFileSync(`${folder}/anna & bela.session.json`, 'utf8')));
  expect(document.tracks.map(({ reel }) => reel[0]!.frames)).toEqual([393_600, 208_980]);
  expect(document.tracks[0]!.chain.treatments).toMatchObject([{ kind: 'noise-reduction', reductionDb: 14 }]);
  expect(cli('unbundle', out, folder)).toMatchObject({ code: 2, err: expect.stringContaining('is not empty') });
  writeFileSync(files.path('cut.zip'), readFileSync(out).subarray(0, 4000));
  expect(cli('unbundle', files.path('cut.zip'), files.path('else'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('no zip that can be read'),
  });
  expect(readdirSync(files.path('else'))).toEqual([]);
});

test('a report of what became of a file: as JSON, as a page, on paper', () => {
  const [before, after] = [files.path('anna & bela.wav'), files.path('cleaned.wav')];
  expect(cli('clean', before, after, '--chain', CHAIN, '--noise', 'auto', '--target', TARGET).code).toBe(0);
  const out = files.path('report.json');
  const told = cli('report', before, after, out, '--chain', CHAIN, '--target', TARGET);
  expect([told.code, JSON.parse(told.out)]).toEqual([0, { passed: true }]);
  const report = JSON.parse(readFileSync(out, 'utf8')) as Report;
  const line = (title: string) => report.measured.find((one) => one.title === title)!;
  expect(Math.abs(line('Integrated loudness').after! + 16)).toBeLessThan(0.1);
  expect(line('Noise floor').before! - line('Integrated loudness').before!).toBeGreaterThan(
    line('Noise floor').after! - line('Integrated loudness').after! + 6,
  );
  expect(report.done[0]!.treatments.map(({ title }) => title)).toEqual(['Noise reduction']);
  expect(report.received[0]!.found.map(({ title }) => title)).toContain('Noise floor');
  expect(cli('report', before, after, files.path('report.html')).code).toBe(0);
  expect(readFileSync(files.path('report.html'), 'utf8')).toContain('anna &amp; bela.wav');
  expect(cli('report', before, after, files.path('report.pdf')).code).toBe(0);
  expect(readFileSync(files.path('report.pdf')).subarray(0, 5).toString('latin1')).toBe('%PDF-');
  expect(cli('report', before, after, files.path('report.doc'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('.html, .pdf or .json'),
  });
});
