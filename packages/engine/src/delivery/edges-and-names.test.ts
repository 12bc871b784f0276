import { EngineError } from '../errors.js';
import { figures } from '../testing/figures.js';
import { checkSheet, type FileFacts } from './check-sheet.js';
import { fileNameOf, requireNamePattern, type NameParts } from './file-name.js';
import { PLAIN_FILE } from './file-spec.js';
import { requireTags } from './tags.js';
import { requireTarget, targets } from './targets.js';

const parts: NameParts = {
  session: 'The mill',
  track: null,
  production: 'The Tidemill Tour',
  target: 'Podcast, mono',
  date: '2026-11-29',
  number: 3,
};

describe('names of files', () => {
  test.each([
    [null, {}, 'The mill (cleaned)'],
    [null, { track: 'Anna' }, 'The mill, Anna (cleaned)'],
    ['{date} {production} - {session}_{number}', {}, '2026-11-29 The Tidemill Tour - The mill_03'],
    ['{production} - {session}', { production: null }, 'The mill'],
    ['{session}, {track}', {}, 'The mill'],
    ['a/b:{session}?', { session: '..\\evil\u0000' }, 'a-b-..-evil-'],
    ['{track}', {}, 'The mill'],
    ['{session}', { session: '...' }, 'delivery'],
  ])('%s', (pattern, part, name) => expect(fileNameOf(pattern, { ...parts, ...part })).toBe(name));

  test('never longer than a disk takes, however many bytes a sign has', () => {
    const name = fileNameOf('{session}', { ...parts, session: '🌊'.repeat(120) });
    expect(Buffer.byteLength(name)).toBeLessThanOrEqual(200);
    expect(name).toMatch(/^🌊+$/u);
  });

  test('a pattern that names what there is not is refused, with what there is', () => {
    expect(() => requireNamePattern('{session} {episode}')).toThrow(/knows \{session\}, .*; \{episode\} was given/);
    expect(requireNamePattern('')).toBeNull();
    expect(() => requireNamePattern('x'.repeat(121))).toThrow(EngineError);
  });
});

describe('what is put before and behind', () => {
  const json = { ...targets[0]!, head: { seconds: 0.75, fill: 'room-tone' }, tail: { seconds: 2, fill: 'silence' } };
  test('is part of a target; targets of before have none', () => {
    expect(requireTarget(json)).toMatchObject({ head: json.head, tail: json.tail });
    const { head: _, tail: __, namePattern: ___, ...before } = json;
    expect(requireTarget(before)).toMatchObject({ head: null, tail: null, namePattern: null });
  });
  test.each([{ seconds: 0, fill: 'silence' }, { seconds: 31, fill: 'silence' }, { seconds: 1, fill: 'hiss' }, 'much'])(
    '%j is refused',
    (head) => expect(() => requireTarget({ ...json, head })).toThrow(/"seconds": 0.1 to 30/),
  );

  const sheet = (edgesDbfs: FileFacts['edgesDbfs'], seconds = 12.75) =>
    checkSheet(figures(), figures({ durationSeconds: seconds }), targets[0]!, {
      work: { gainDb: 0, limitedDb: 0, limitedSeconds: 0 },
      file: {
        sampleRateHz: 48_000,
        channels: 1,
        bits: 24,
        kbps: 1200,
        edgesDbfs: edgesDbfs!,
        asked: PLAIN_FILE,
        edges: requireTarget(json),
      },
    }).filter(({ title }) => ['Length', 'Head', 'Tail'].includes(title));

  test('room tone is no louder than the gaps and not nothing; silence is silence; the length is told', () => {
    expect(sheet([-66, null]).map(({ title, asked, passed }) => [title, asked, passed])).toEqual([
      ['Length', '2.75 s more', true],
      ['Head', '0.75 s of room tone', true],
      ['Tail', '2 s of silence', true],
    ]);
    expect(sheet([-66, -97], 10).map(({ passed }) => passed)).toEqual([false, true, true]);
  });
  test('where there is no room to take, or none that is quiet, the miss says what would mend it', () => {
    expect(sheet([null, -50])).toMatchObject([{}, { passed: false, mend: { by: 'gate' } }, { passed: false }]);
    expect(sheet([-40, null])[1]).toMatchObject({ passed: false, mend: { by: 'noise-reduction' } });
  });
});

test('tags are texts without control characters; a comment keeps its lines', () => {
  expect(requireTags({ artist: 'A\tB', comment: 'one\ntwo\u0007' })).toEqual({
    title: '',
    artist: 'A B',
    album: '',
    date: '',
    comment: 'one\ntwo ',
  });
  expect(() => requireTags({ title: 5 })).toThrow(EngineError);
  expect(() => requireTags({ title: 'x'.repeat(501) })).toThrow(/up to 500/);
});
