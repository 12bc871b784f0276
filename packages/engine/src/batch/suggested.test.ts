import { defaultTreatment, type Finding } from '@euphonos/dsp';
import { missesOf, prepare, suggestedChain } from './suggested.js';

const reduction = defaultTreatment('noise-reduction');
const finding = (facts: object, certainty = 0.9, suggestion?: object): Finding =>
  ({ certainty, spans: [], ...facts, ...(suggestion && { suggestion }) }) as unknown as Finding;
const floor = finding({ kind: 'noise-floor', dbfs: -48, thirdOctaves: [] }, 0.9, reduction);
const rumble = finding({ kind: 'rumble', belowHz: 75, dbfs: -41, lowestVoiceHz: 98 }, 0.5, defaultTreatment('high-pass'));
const passages = (withinDb: number): Finding =>
  finding({ kind: 'noise-passages', spans: [{ startSeconds: 1, endSeconds: 2, dbfs: -48, withinDb, driftDb: 0 }] });

test('one treatment of a kind, in the usual order of work', () => {
  expect(suggestedChain([floor, rumble, floor]).treatments.map(({ kind }) => kind)).toEqual(['high-pass', 'noise-reduction']);
});
test('the best passage is the noise; what is not sure, and noise that is not steady, is for an ear', () => {
  const { passage, needsEar } = prepare(null, [floor, rumble, passages(4.2)], false);
  expect(passage).toMatchObject({ startSeconds: 1, endSeconds: 2 });
  expect(needsEar).toEqual([
    'Rumble: maybe only (50 %), and treated.',
    'Its noise is steady within 4.2 dB only, where the profile is taken.',
  ]);
  expect(prepare(null, [floor, passages(1)], false).needsEar).toEqual([]);
});
test('without a passage the noise is tracked, and somebody should hear it', () => {
  const { chain, needsEar } = prepare({ treatments: [reduction] }, [floor], false);
  expect(chain.treatments).toMatchObject([{ kind: 'noise-reduction', mode: 'tracked' }]);
  expect(needsEar).toHaveLength(1);
});
test('with a kept profile, or where nothing weighs, none is looked for', () => {
  expect(prepare({ treatments: [reduction] }, [], true)).toEqual({ chain: { treatments: [reduction] }, passage: null, needsEar: [] });
  expect(prepare({ treatments: [defaultTreatment('high-pass')] }, [passages(9)], false).needsEar).toEqual([]);
});
test('what of a sheet is missed is told in words', () => {
  const line = { title: 'Noise floor', unit: 'dBFS', before: -50, asked: 'at most -60 dBFS', missedBy: 4 };
  expect(
    missesOf([
      { ...line, after: -56, passed: false },
      { ...line, after: -61, passed: true },
    ]),
  ).toEqual(['Noise floor: −56.0 dBFS, at most -60 dBFS is asked.']);
});
