import fc from 'fast-check';
import type { Mark } from './document.js';
import { marksAsCsv, marksAsVtt, marksFromCsv, marksFromVtt } from './mark-files.js';

const RATE_HZ = 44_100;
const mark = (name: string, startFrame: number, endFrame: number | null, note = ''): Mark => ({
  id: name,
  name,
  startFrame,
  endFrame,
  note,
});
const marks = [
  mark('Arrival', 0, 132_300),
  mark('a "cough", loud', 66_151, null, 'cut it;\nor not'),
  mark('Wheel & <race>', 200_001, 399_999),
];
const bare = (list: readonly Mark[]) => list.map(({ name, startFrame, endFrame, note }) => ({ name, startFrame, endFrame, note }));

test('a table comes back as it was, to the frame', () => {
  expect(marksAsCsv(marks, RATE_HZ).split('\r\n').slice(0, 2)).toEqual(['start,end,name,note', '0.000000,3.000000,Arrival,']);
  expect(marksFromCsv(marksAsCsv(marks, RATE_HZ), RATE_HZ)).toEqual(bare(marks));
  fc.assert(
    fc.property(
      fc.nat(1e9),
      fc.option(fc.integer({ min: 1, max: 1e6 })),
      fc.string({ maxLength: 60 }),
      fc.string({ maxLength: 200 }),
      (start, length, name, note) => {
        const one = mark(name.trim(), start, length === null ? null : start + length, note.replace(/\r/g, ''));
        expect(marksFromCsv(marksAsCsv([one], 192_000), 192_000)).toEqual(bare([one]));
      },
    ),
  );
});

// RFC 4180, section 2: quoted fields hold separators, line breaks and doubled quotation marks.
test('tables of others: columns in any order, parted by semicolons or tabs, times as h:mm:ss', () => {
  expect(marksFromCsv('\ufeffName;Start;Note\r\n"a ""b""; c";0:01:02,500;"two\r\nlines"\r\n', 48_000)).toEqual([
    { name: 'a "b"; c', startFrame: 3_000_000, endFrame: null, note: 'two\nlines' },
  ]);
  expect(marksFromCsv('start\tend\n1:00:00\t1:00:01.5\n', 48_000)).toEqual([
    { name: '', startFrame: 172_800_000, endFrame: 172_872_000, note: '' },
  ]);
});

test.each([
  ['name,end\nx,3\n', 'Line 1: The first row names the columns'],
  ['start,name\n12,a\nsoon,b\n', 'Line 3: "soon" is no time'],
  ['start,name\n1:75:00,a\n', 'Line 2: "1:75:00" is no time'],
  ['start,name\n1,"a\n', 'Line 2: A quotation mark is not closed'],
  ['', 'Line 1'],
])('%j is refused with its line', (text, words) => {
  expect(() => marksFromCsv(text, 48_000)).toThrow(words);
});

test('cues come back to the millisecond, places as places', () => {
  const text = marksAsVtt(marks, RATE_HZ);
  expect(text.startsWith('WEBVTT\n\npassage 1\n00:00:00.000 --> 00:00:03.000\nArrival\n\nplace 2\n')).toBe(true);
  const back = marksFromVtt(text, RATE_HZ);
  expect(back.map(({ name, note }) => [name, note])).toEqual(marks.map(({ name, note }) => [name, note]));
  back.forEach(({ startFrame, endFrame }, i) => {
    expect(Math.abs(startFrame - marks[i]!.startFrame)).toBeLessThanOrEqual(RATE_HZ / 1000);
    expect(endFrame === null).toBe(marks[i]!.endFrame === null);
  });
});

// WebVTT (W3C candidate recommendation), section 1: cues without identifiers, minutes alone, settings behind the times, voices and comments.
test('cues of others', () => {
  const text = `WEBVTT - a talk

NOTE nothing of this is a cue

00:11.000 --> 00:13.000 align:start position:20%
<v Roger Bingham>We are in New York City

2
00:13.000 --> 00:16.000
&lt;aside&gt; &amp; more
on two lines
`;
  expect(marksFromVtt(text, 1000)).toEqual([
    { name: 'We are in New York City', startFrame: 11_000, endFrame: 13_000, note: '' },
    { name: '<aside> & more', startFrame: 13_000, endFrame: 16_000, note: 'on two lines' },
  ]);
  expect(() => marksFromVtt('00:11.000 --> 00:13.000\nx', 1000)).toThrow('Line 1: The first line is "WEBVTT"');
  expect(() => marksFromVtt('WEBVTT\n\nnow --> then\nx', 1000)).toThrow('Line 3');
});

test('more than a session holds is refused', () => {
  const many = `start\n${'1\n'.repeat(2001)}`;
  expect(() => marksFromCsv(many, 48_000)).toThrow('2001 marks; a session holds up to 2000');
});

test('cues without an empty line between them are cues of their own, and ten thousand of them are read at once', () => {
  const cue = '00:00:01.000 --> 00:00:02.000\nWord\n';
  expect(marksFromVtt(`WEBVTT\n\n${cue}${cue}`, 48_000).map(({ name }) => name)).toEqual(['Word', 'Word']);
  // Each of them read to the end of the file would take minutes.
  expect(() => marksFromVtt(`WEBVTT\n\n${'00:00:01.000 --> 00:00:02.000\n'.repeat(100_000)}`, 48_000)).toThrow('100000 marks');
  expect(() => marksFromVtt(`WEBVTT\n\n${cue}${'<'.repeat(400_000)}\n`, 48_000)).not.toThrow();
});
