import { depthFor, differingShare, speechOverBed, talkRows } from './under.js';

const STEP_SECONDS = 0.02;
/** Steps at a loudness (BS.1770-5 eq. 2 backwards). */
const steps = (...parts: readonly (readonly [lufs: number, seconds: number])[]): Float32Array =>
  Float32Array.from(
    parts.flatMap(([lufs, seconds]) => Array<number>(Math.round(seconds / STEP_SECONDS)).fill(10 ** ((lufs + 0.691) / 10))),
  );
const span = (startSeconds: number, endSeconds: number) => ({ startSeconds, endSeconds });

test('speech over what lies under it while somebody speaks: the bed between words and after its end counts for nothing', () => {
  const speech = steps([-80, 2], [-20, 4], [-80, 2], [-20, 4]);
  const bed = steps([-10, 2], [-38, 4], [-10, 2], [-38, 2], [-120, 2]);
  const { speechLufs, bedLufs, overLu } = speechOverBed([speech], bed, STEP_SECONDS, [span(2, 6), span(8, 12)]);
  expect(speechLufs).toBeCloseTo(-20, 0);
  expect(bedLufs).toBeCloseTo(-38, 5);
  expect(overLu).toBeCloseTo(speechLufs! + 38, 5);
});

test('two who speak at once are louder than one; nobody is nothing', () => {
  const one = steps([-20, 4]);
  const bed = steps([-40, 4]);
  const of = (speech: Float32Array[]) => speechOverBed(speech, bed, STEP_SECONDS, [span(0, 4)]).overLu!;
  expect(of([one, one]) - of([one])).toBeCloseTo(3.01, 2);
  expect(speechOverBed([one], bed, STEP_SECONDS, [])).toEqual({ speechLufs: null, bedLufs: null, overLu: null });
});

test('the depth that brings speech where it is wished, within its range', () => {
  expect(depthFor(15, 6.04, 0)).toBe(9);
  expect(depthFor(15, 17, 9)).toBe(7);
  expect(depthFor(15, 30, 9)).toBe(0);
});

test('how far who speaks now differs from who spoke then', () => {
  expect(differingShare([span(0, 2), span(3, 5)], [span(3, 5), span(0, 1), span(1, 2)])).toBe(0);
  expect(differingShare([span(0, 4)], [span(2, 6)])).toBeCloseTo(4 / 6, 9);
  expect(differingShare([], [])).toBe(0);
  expect(talkRows([[{ ...span(3, 4), lufs: -20 }], [{ ...span(1, 2), lufs: -22 }]]).map(({ startSeconds }) => startSeconds)).toEqual([
    1, 3,
  ]);
});
