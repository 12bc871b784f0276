import { join } from 'node:path';
import { noise } from '../../../packages/dsp/src/testing/signals.js';
import { ffmpeg, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';

const files = scratchFolder();
afterAll(files.remove);

test('line-up says when a second recording began on the time of the first, at another rate and in the other polarity', () => {
  const demo = join(__dirname, '../../../demo/narrator.flac');
  ffmpeg('-t', '25', '-i', demo, files.path('camera.wav'));
  ffmpeg(
    '-ss',
    '4.125',
    '-t',
    '18',
    '-i',
    demo,
    '-af',
    'volume=-0.4,lowpass=f=5000',
    '-ar',
    '44100',
    '-ac',
    '2',
    files.path('recorder.wav'),
  );
  writeFloatWav(files.path('hiss.wav'), noise(-30, 4));
  const { code, out } = cli('line-up', files.path('camera.wav'), files.path('recorder.wav'));
  const found = JSON.parse(out) as Record<string, number>;
  expect(code).toBe(0);
  expect(Math.abs(found['offsetSeconds']! - 4.125)).toBeLessThan(0.001);
  expect(found).toMatchObject({ inverted: true });
  expect(found['certainty']).toBeGreaterThan(0.8);
  const strange = JSON.parse(cli('line-up', files.path('camera.wav'), files.path('hiss.wav')).out) as Record<string, number> | null;
  expect(strange?.['certainty'] ?? 0).toBeLessThan(0.5);
  expect(cli('line-up', files.path('hiss.wav'))).toMatchObject({ code: 2, err: 'euphonos: line-up takes two files: FIRST and SECOND.\n' });
});
