import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { noise } from '../../dsp/src/testing/signals.js';
import { addCues, readCues, type Cue } from './cues.js';
import { ffmpeg, scratchFolder, writeFloatWav } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const sound = noise(-30, 1, 3);
const cues: readonly Cue[] = [
  { frame: 0, frames: null, name: 'Start', note: '' },
  { frame: 12_001, frames: 24_000, name: 'Mühle, die große', note: 'take 2\nof 3' },
  { frame: 47_999, frames: null, name: '', note: '' },
];
const samplesOf = (name: string): string =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', files.path(name), '-f', 'md5', '-'], { encoding: 'utf8' });

test.each([sound, sound.subarray(0, 47_999)])('what is written is read; the sound is the same, also by ffmpeg', async (part) => {
  const name = `c${part.length}.wav`;
  writeFloatWav(files.path(name), part);
  ffmpeg('-i', files.path(name), '-c:a', 'pcm_s24le', files.path(`x${name}`));
  const before = samplesOf(`x${name}`);
  expect(await addCues(files.path(`x${name}`), cues)).toBe(true);
  expect(await readCues(files.path(`x${name}`))).toEqual(cues);
  expect(samplesOf(`x${name}`)).toBe(before);
  // RIFF's own size counts every chunk.
  const bytes = readFileSync(files.path(`x${name}`));
  expect(bytes.readUInt32LE(4)).toBe(bytes.length - 8);
});

test('what another program wrote: Latin-1, points without labels, a list that is cut off, other files', async () => {
  writeFloatWav(files.path('a.wav'), sound);
  await addCues(files.path('a.wav'), [{ frame: 5, frames: null, name: 'M?hle', note: '' }]);
  const bytes = readFileSync(files.path('a.wav'));
  bytes[bytes.indexOf('M?hle') + 1] = 0xfc;
  writeFileSync(files.path('latin.wav'), bytes);
  expect(await readCues(files.path('latin.wav'))).toEqual([{ frame: 5, frames: null, name: 'Mühle', note: '' }]);
  writeFileSync(files.path('cut.wav'), bytes.subarray(0, bytes.length - 4));
  expect(await readCues(files.path('cut.wav'))).toEqual([{ frame: 5, frames: null, name: '', note: '' }]);
  ffmpeg('-i', files.path('a.wav'), files.path('a.flac'));
  expect(await readCues(files.path('a.flac'))).toEqual([]);
  expect(await readCues(files.path('none.wav'))).toEqual([]);
});
