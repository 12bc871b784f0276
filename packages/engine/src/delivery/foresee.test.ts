import { foresee, gainTo } from './foresee.js';
import { targets } from './targets.js';

const level = { lufs: -26, rangeLu: 8, truePeakDbtp: -8, samplePeakDbfs: -8.2, floorDbfs: -64, dcOffset: 0 };
const podcast = targets[0]!;
const narration = targets.find(({ rmsDbfs }) => rmsDbfs !== null)!;

test('a gain to a loudness, to the middle of an RMS window, or none', () => {
  expect(gainTo(level, podcast)).toBe(10);
  expect(gainTo({ ...level, rmsDbfs: -28 }, narration)).toBe(7.5);
  expect(gainTo({ ...level, lufs: null }, podcast)).toBe(0);
  expect(gainTo(level, { ...podcast, integratedLufs: null })).toBe(0);
});

test('a floor that the gain lifts over what is asked is said before, with what would do', () => {
  const [floor] = foresee(level, podcast);
  expect(floor).toMatchObject({ title: 'Noise floor', by: 'noise-reduction' });
  expect(floor!.words).toContain('lifts the gaps to −54.0 dBFS; at most −60.0 is asked. 6.0 dB more');
  expect(foresee({ ...level, floorDbfs: -71 }, podcast)).toEqual([]);
});

test('peaks are said where the limiter would take more of them than goes unheard', () => {
  const peaks = (truePeakDbtp: number) => foresee({ ...level, floorDbfs: -80, truePeakDbtp }, podcast);
  // 10 dB louder, ceiling -1 dBTP: 5 dB over it, and 7.
  expect(peaks(-6)).toEqual([]);
  expect(peaks(-4)[0]!.words).toContain('7.0 dB over the ceiling');
});

test('nothing to say where all can be met', () => {
  expect(foresee({ ...level, lufs: -17, floorDbfs: -70, truePeakDbtp: -3 }, podcast)).toEqual([]);
  expect(foresee({ ...level, lufs: -17, floorDbfs: -70, truePeakDbtp: -3, rangeLu: 12 }, { ...podcast, rangeLu: 10 })).toMatchObject([
    { title: 'Loudness range', by: 'levelling' },
  ]);
});
