import { createDocument } from '@euphonos/engine';
import { references } from '../../../workbench/scope.js';
import { asLoudAs, difference } from './equal-level.js';

const bands = (...levels: readonly (readonly [hz: number, dbfs: number])[]) => levels.map(([hz, dbfs]) => ({ hz, dbfs }));

test('a spectrum is brought to the level of another by what lies between 100 Hz and 10 kHz', () => {
  const own = bands([50, 0], [1000, -30], [2000, -30]);
  const other = bands([50, -80], [1000, -20], [2000, -20]);
  [10, -20, -20].forEach((dbfs, i) => expect(asLoudAs(own, other)[i]!.dbfs).toBeCloseTo(dbfs, 6));
});

test('differences are told of the bands that both have', () => {
  expect(difference(bands([50, -20], [1000, -20]), bands([1000, -26], [2000, -20]))).toEqual(bands([1000, 6]));
});

test('speech can be compared with: tracks, and clips that are long enough; beds and oneself not', () => {
  const of = { lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 };
  const document = createDocument([
    { id: 'r1', name: 'Anna', ...of },
    { id: 'r2', name: 'Ben', ...of },
    { id: 'r3', name: 'Bed', ...of },
  ]);
  const [anna, ben, bed] = document.tracks;
  const clip = anna!.clips[0]!;
  const clips = [
    { ...clip, id: 'a', source: { startFrame: 0, endFrame: 48_000 } },
    { ...clip, id: 'b', startFrame: 96_000, source: { startFrame: 96_000, endFrame: 480_000 } },
  ];
  const session = { ...document, tracks: [{ ...anna!, clips }, ben!, { ...bed!, role: 'bed' as const }] };
  expect(references(session, `${ben!.id}/`)).toEqual([
    { id: `${anna!.id}/`, name: 'Anna' },
    { id: `${anna!.id}/b`, name: 'Anna at 0:02.0' },
  ]);
});
