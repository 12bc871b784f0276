import { createDocument, MOST_MARKS, MOST_PARTS, type SessionDocument } from '@euphonos/engine';
import { layTakes, quietOnReel, type LaidTake } from './lay-take.js';

const RATE_HZ = 48_000;
const SECONDS = 2;
const laid = (n: number): LaidTake =>
  ({
    take: { id: `t${n}`, name: `Take ${n}`, sampleRateHz: RATE_HZ, device: 'd', marks: [], gaps: [], chain: null },
    recording: { id: `t${n}`, fileName: `Take ${n}.wav`, facts: { lengthFrames: SECONDS * RATE_HZ, sampleRateHz: RATE_HZ, channels: 1 } },
  }) as unknown as LaidTake;
const facts = (n: number) => ({ id: `t${n}`, name: `Take ${n}`, lengthFrames: SECONDS * RATE_HZ, sampleRateHz: RATE_HZ, channels: 1 });
const lay = (document: SessionDocument, known: readonly LaidTake[], n: number): SessionDocument =>
  layTakes(document, [...known, laid(n)], laid(n).take, { first: false, noise: null, pausesOf: () => null }).document;

test('takes go behind each other; on a track of their own where one is full, and on behind that', () => {
  const full = createDocument(
    Array.from({ length: MOST_PARTS }, (_, n) => facts(n)),
    'sequence',
  );
  const known = Array.from({ length: MOST_PARTS }, (_, n) => laid(n));
  const one = lay(full, known, MOST_PARTS);
  expect(one.tracks.map(({ reel }) => reel.length)).toEqual([MOST_PARTS, 1]);
  // In time it comes after the last one all the same.
  expect(one.tracks[1]!.clips[0]!.startFrame).toBe((MOST_PARTS * SECONDS + 1) * RATE_HZ);
  const two = lay(one, [...known, laid(MOST_PARTS)], MOST_PARTS + 1);
  expect(two.tracks.map(({ reel }) => reel.length)).toEqual([MOST_PARTS, 2]);
});

test('a session with all the marks that it may have takes a take without any', () => {
  const marks = Array.from({ length: MOST_MARKS }, (_, n) => ({ id: `m${n}`, name: '', startFrame: n, endFrame: null, note: '' }));
  const document = { ...createDocument([facts(0)], 'sequence'), marks };
  const next = lay(document, [laid(0)], 1);
  expect([next.marks.length, next.tracks[0]!.reel.length]).toEqual([MOST_MARKS, 2]);
});

test('where nobody talks leaves room for voiceless beginnings and ends, and none at the edges of a recording', () => {
  const [track] = createDocument([{ ...facts(0), lengthFrames: 10 * RATE_HZ }]).tracks;
  const pauses = [
    { startSeconds: 0, endSeconds: 1 },
    { startSeconds: 3, endSeconds: 4 },
    { startSeconds: 5, endSeconds: 5.6 },
    { startSeconds: 8, endSeconds: 10 },
  ];
  expect(quietOnReel(track!, RATE_HZ, () => pauses)).toEqual([
    { startSeconds: 0, endSeconds: 0.75 },
    { startSeconds: 3.4, endSeconds: 3.75 },
    { startSeconds: 8.4, endSeconds: 10 },
  ]);
});
