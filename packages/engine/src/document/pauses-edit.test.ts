import { parseChain, type TreatmentSettings } from '@euphonos/dsp';
import { endOf } from '../arrangement/places.js';
import { fresh, LENGTH, trackOf } from '../testing/documents.js';
import { applyEdit, type Edit } from './edits.js';
import { breathsEdit, pausesEdit } from './pauses-edit.js';

const RATE = 48_000;
/** Pauses of 2 s, 0.5 s (excepted) and 0.2 s (too short). */
const settings = (part: object): TreatmentSettings =>
  parseChain({
    treatments: [
      {
        kind: 'pauses',
        afterWordMs: 100,
        beforeWordMs: 100,
        shortestMs: 400,
        pauses: [
          { startSeconds: 1, endSeconds: 3, state: 'treat' },
          { startSeconds: 5, endSeconds: 5.5, state: 'leave' },
          { startSeconds: 7, endSeconds: 7.2, state: 'treat' },
        ],
        ...part,
      },
    ],
  }).treatments[0]!;
const tone = { passage: { startFrame: 0, endFrame: 40_000 }, gainDb: () => -1.5 };
const done = (part: object) => trackOf(applyEdit(fresh(), pausesEdit(trackOf(fresh()), settings(part), RATE, tone) as Edit));

test('cut and closed up, what is kept after and before the words stays', () => {
  const { clips } = done({ way: 'close' });
  expect(clips.map(({ startFrame, source }) => [startFrame, source.startFrame, source.endFrame])).toEqual([
    [0, 0, 52_800],
    [52_800, 139_200, LENGTH],
  ]);
});

test('cut leaving a gap, and filled with room tone, the length stays', () => {
  expect(endOf(done({ way: 'gap' }).clips)).toBe(LENGTH);
  const toned = done({ way: 'tone' });
  expect(toned.roomTone).toEqual(tone.passage);
  expect(toned.clips.map(({ sound, startFrame }) => [sound, startFrame])).toEqual([
    [{ kind: 'recording' }, 0],
    [{ kind: 'room-tone', gainDb: -1.5 }, 52_800],
    [{ kind: 'recording' }, 139_200],
  ]);
});

test('shortened to a length: what is left of the pause has it, to the sample', () => {
  const { clips } = done({ way: 'shorten', leaveMs: 700 });
  expect(endOf(clips)).toBe(LENGTH - 1.3 * RATE);
  expect(clips[0]!.source.endFrame / RATE - 1 + (3 - clips[1]!.source.startFrame / RATE)).toBeCloseTo(0.7, 6);
  expect(endOf(done({ way: 'shorten', leaveMs: 100 }).clips)).toBe(LENGTH - 1.8 * RATE);
});

test('the edit says how many; lowered ones need none; a second time there is nothing left to cut', () => {
  expect(pausesEdit(trackOf(fresh()), settings({ way: 'close' }), RATE, null)).toMatchObject({ title: '1 pause: cut' });
  expect(pausesEdit(trackOf(fresh()), settings({ way: 'lower' }), RATE, null)).toBeNull();
  expect(pausesEdit(trackOf(fresh()), settings({ way: 'tone' }), RATE, null)).toBeNull();
  expect(pausesEdit(done({ way: 'close' }), settings({ way: 'close' }), RATE, null)).toBeNull();
});

test('room tone takes the place of breaths that are sure enough and not excepted', () => {
  const rows = [
    { startSeconds: 1, endSeconds: 1.4, certaintyPercent: 90, state: 'treat' },
    { startSeconds: 3, endSeconds: 3.4, certaintyPercent: 30, state: 'treat' },
    { startSeconds: 5, endSeconds: 5.4, certaintyPercent: 90, state: 'leave' },
  ];
  const breaths = (way: string): TreatmentSettings => parseChain({ treatments: [{ kind: 'breaths', way, breaths: rows }] }).treatments[0]!;
  const edit = breathsEdit(trackOf(fresh()), breaths('tone'), RATE, tone)!;
  expect(edit).toMatchObject({
    type: 'fill-spans',
    title: '1 breath: room tone',
    spans: [{ startFrame: RATE, endFrame: 1.4 * RATE, sound: { kind: 'room-tone', gainDb: -1.5 } }],
  });
  expect(breathsEdit(trackOf(fresh()), breaths('lower'), RATE, tone)).toBeNull();
});
