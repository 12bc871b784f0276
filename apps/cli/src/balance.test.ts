import { joined, noise, silence, voice } from '../../../packages/dsp/src/testing/signals.js';
import { ebur128, scratchFolder, writeFloatWav } from '../../../packages/media/src/testing/files.js';
import { cli } from './testing/cli.js';

const files = scratchFolder();
afterAll(files.remove);

interface Balanced {
  readonly files: readonly { readonly role: string; readonly beforeLufs: number; readonly gainDb: number; readonly afterLufs: number }[];
  readonly mix: { readonly integratedLufs: number; readonly truePeakDbtp: number };
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
  const { files: done, mix } = JSON.parse(text) as Balanced;
  expect(done.map(({ role }) => role)).toEqual(['speech', 'speech', 'bed']);
  expect(Math.abs(done[0]!.afterLufs - done[1]!.afterLufs)).toBeLessThan(0.1);
  expect(done[0]!.afterLufs - done[2]!.afterLufs).toBeCloseTo(12, 1);
  expect(done[0]!.gainDb - done[1]!.gainDb).toBeGreaterThan(10);
  const outside = ebur128(out);
  expect(Math.abs(outside.integratedLufs + 20)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(mix.integratedLufs - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(outside.truePeakDbtp).toBeLessThanOrEqual(-0.9);
});

test('what cannot be done is said in a line', () => {
  const quiet = files.path('quiet.wav');
  writeFloatWav(quiet, silence(1));
  expect(cli('balance', quiet, files.path('x.wav'))).toMatchObject({ code: 2, err: expect.stringContaining('silent or shorter') });
  expect(cli('balance', first, first)).toMatchObject({ code: 2, err: expect.stringContaining('never overwritten') });
  expect(cli('balance', files.path('x.wav'))).toMatchObject({ code: 2, err: expect.stringContaining('OUT, the last one') });
  expect(cli('balance', first, files.path('x.wav'), '--under', '99')).toMatchObject({ code: 2, err: expect.stringContaining('0 to 40') });
});
