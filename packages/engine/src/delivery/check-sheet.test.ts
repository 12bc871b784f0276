import type { SoundFigures } from '@euphonos/dsp';
import { EngineError } from '../errors.js';
import { figures } from '../testing/figures.js';
import { checkSheet } from './check-sheet.js';
import { requireFileSpec } from './file-spec.js';
import { requireTarget, targets } from './targets.js';

const podcast = targets[0]!;
const work = { gainDb: 6, limitedDb: 0, limitedSeconds: 0 };
const broadcast = targets.find(({ name }) => name === 'European broadcast')!;
const verdicts = (part: Partial<SoundFigures>, target = podcast) =>
  checkSheet(figures(), figures(part), target, { work }).map(({ passed, missedBy }) => [passed, missedBy]);

test('all that is asked is met', () => {
  expect(verdicts({})).toEqual([
    [true, null],
    [null, null],
    [true, null],
    [true, null],
  ]);
});

test('each line fails for itself, and says by how much', () => {
  expect(verdicts({ integratedLufs: -18.2 })[0]).toEqual([false, 1.2]);
  expect(verdicts({ integratedLufs: -14.5 })[0]).toEqual([false, 0.5]);
  expect(verdicts({ truePeakDbtp: -0.5 })[2]).toEqual([false, 0.5]);
  expect(verdicts({ noiseFloorDbfs: -52 })[3]).toEqual([false, 8]);
});

test('the verdict is on the figure as it is shown: -1.04 dBTP reads -1.0 and passes, -0.95 reads -0.9 and fails', () => {
  expect(verdicts({ truePeakDbtp: -1.04 })[2]).toEqual([true, null]);
  expect(verdicts({ truePeakDbtp: -0.949 })[2]).toEqual([false, 0.1]);
});

test('silence has no loudness and fails a loudness; it has no peak and no floor, and passes those', () => {
  const silent = { integratedLufs: null, loudnessRangeLu: null, truePeakDbtp: null, noiseFloorDbfs: null };
  expect(verdicts(silent)).toEqual([
    [false, null],
    [null, null],
    [true, null],
    [true, null],
  ]);
});

test('nothing is asked of the floor in broadcast', () => {
  expect(verdicts({ integratedLufs: -23, noiseFloorDbfs: -20 }, broadcast)[3]).toEqual([null, null]);
});

// EBU R 128 (2023): -23.0 LUFS ±0.5 LU where an exact hit is not practical, at most -1 dBTP. ATSC A/85: -24 LKFS ±2, -2 dBTP.
test('broadcast targets are those of the published standards', () => {
  expect(broadcast).toMatchObject({ integratedLufs: -23, toleranceLu: 0.5, ceilingDbtp: -1 });
  expect(targets.find(({ name }) => name === 'North-American broadcast')).toMatchObject({
    integratedLufs: -24,
    toleranceLu: 2,
    ceilingDbtp: -2,
  });
});

test.each([[{ integratedLufs: -5 }], [{ integratedLufs: 'loud' }], [{ toleranceLu: 0 }], [{ ceilingDbtp: 1 }], [{ ceilingDbtp: null }]])(
  'a target with %j is refused with its limits',
  (part) => {
    expect(() => requireTarget({ ...podcast, ...part })).toThrow(EngineError);
    expect(() => requireTarget({ ...podcast, ...part })).toThrow(/goes from .* to /);
  },
);

test('a target without a loudness leaves the level as it is', () => {
  expect(requireTarget({ ...podcast, integratedLufs: null }).integratedLufs).toBeNull();
});

// Common practice, no source: RMS -23 … -18 dBFS, samples under -3 dBFS, floor under -60 dBFS.
test('a window of the RMS level, sample peaks and a range are lines of their own', () => {
  const narration = targets.find(({ rmsDbfs }) => rmsDbfs !== null)!;
  const lines = (part: Partial<SoundFigures>) =>
    Object.fromEntries(
      checkSheet(figures(), figures(part), { ...narration, rangeLu: 6 }, { work }).map(({ title, passed, missedBy }) => [
        title,
        passed ?? missedBy,
      ]),
    );
  expect(lines({ rmsDbfs: -20, truePeakDbtp: -3.2, samplePeakDbfs: -3.4 })).toEqual({
    'Integrated loudness': null,
    'RMS level': true,
    'Loudness range': true,
    'True peak': true,
    'Sample peak': true,
    'Noise floor': true,
  });
  expect(lines({ rmsDbfs: -24.1, samplePeakDbfs: -2, loudnessRangeLu: 8 })).toMatchObject({
    'RMS level': false,
    'Sample peak': false,
    'Loudness range': false,
  });
});

test('a miss says what would mend it', () => {
  const mends = (part: Partial<SoundFigures>) =>
    checkSheet(figures(), figures(part), podcast, { work }).flatMap(({ mend }) => (mend ? [mend] : []));
  expect(mends({})).toEqual([]);
  expect(mends({ noiseFloorDbfs: -52 })).toEqual([
    { by: 'noise-reduction', words: '8 dB more noise reduction; the gain lifted it by 6 dB.' },
  ]);
  expect(mends({ truePeakDbtp: -0.5 })).toMatchObject([{ by: 'limiter' }]);
  const [besideBed] = checkSheet(figures(), figures({ noiseFloorDbfs: -40 }), podcast, { work, bed: true }).flatMap(
    ({ mend }) => mend ?? [],
  );
  expect(besideBed).toMatchObject({ by: 'target', words: expect.stringContaining('the bed sounds') });
});

test('what the file says of itself is checked: rate, depth, channels, length', () => {
  const file = { sampleRateHz: 48_000, channels: 1, bits: 24, kbps: null };
  const sheet = (facts: object, part: Partial<SoundFigures> = {}, spec: object | null = {}) =>
    Object.fromEntries(
      checkSheet(figures(), figures(part), podcast, {
        work,
        file: { ...file, ...facts, asked: spec === null ? null : requireFileSpec(spec) },
      })
        .slice(4)
        .map(({ title, passed }) => [title, passed]),
    );
  expect(sheet({})).toEqual({ 'Sample rate': true, 'Bit depth': true, Channels: null, Length: true });
  expect(sheet({ bits: 16, sampleRateHz: 44_100 })).toMatchObject({ 'Sample rate': false, 'Bit depth': false });
  expect(sheet({ bits: null, kbps: 191.9 }, {}, { format: 'mp3' })).toEqual({
    'Sample rate': true,
    'Bit rate': null,
    Channels: null,
    Length: true,
  });
  expect(sheet({}, { durationSeconds: 10.02 }, { channels: 2 })).toMatchObject({ Channels: false, Length: false });
  // In a picture's container nothing but the length is asked for.
  expect(sheet({ bits: null }, {}, null)).toEqual({ 'Sample rate': null, Channels: null, Length: true });
});
